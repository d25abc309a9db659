import { describe, expect, it } from 'vitest';
import { DEFAULT_EDGES } from '../drift/bands';
import { chancesOf, saySoMany } from './chance';
import type { Seen } from './cohort';
import type { FitCohort } from './fit';

/** Twelve weeks of people whose first value is their drift: every third of those at 80 leaves in week 6, nobody of those at 10. */
function cohort(people: number, more: Partial<FitCohort> = {}): FitCohort {
  const learners = Array.from({ length: people }, (_, id) => {
    const leaves = id % 2 === 0 && id % 6 === 0;
    return { id, left: leaves, lastDay: leaves ? 38 : 83 };
  });
  const weeks = Array.from({ length: 12 }, (_, index) => ({
    day: 7 * index + 6,
    week: index + 1,
    seen: learners.map((_, place): Seen => ({
      place,
      values: [place % 2 === 0 ? 80 : 10],
      byAnybody: [true],
      elapsed: (7 * index + 6) / 83,
      without: null,
      absence: { hasCome: true, days: 1 },
    })),
  }));
  return {
    start: 0,
    end: 83,
    learners,
    weeks,
    groups: learners.map(() => 1),
    contacts: learners.map(() => []),
    ...more,
  };
}
const drift = ({ values: [value] }: Seen) => value;

describe('a share in words', () => {
  it('is the nearest of a few, as coarse as it is known', () => {
    expect([0.27, 0.5, 0.35, 0.02, 0.034, 0.7, 0.97, 1].map(saySoMany)).toEqual([
      '1 in 4',
      '1 in 2',
      '1 in 3',
      'fewer than 1 in 40',
      '1 in 30',
      '2 in 3',
      '9 in 10',
      '9 in 10',
    ]);
  });
});

describe('what became of people who stood so', () => {
  it('is said by band and third of the course, from ten leavers on', () => {
    const found = chancesOf([cohort(120)], drift, DEFAULT_EDGES);
    expect(found.map(({ band, third }) => [band, third])).toEqual([
      [2, 'first third'],
      [2, 'second third'],
      [2, 'last third'],
      [0, 'first third'],
      [0, 'second third'],
      [0, 'last third'],
    ]);
    const [early, middle, late, well] = found;

    expect(early).toMatchObject({ learners: 60, leavers: 20, says: expect.stringMatching(/^about 1 in [345]/) });
    expect(middle.leavers).toBe(20);
    expect(late).toMatchObject({ leavers: 0, says: null });
    expect(well).toMatchObject({ learners: 60, leavers: 0, says: null });
    expect(chancesOf([cohort(50)], drift, DEFAULT_EDGES)[0]).toMatchObject({ leavers: 9, says: null });
    expect(chancesOf([], drift, DEFAULT_EDGES)).toEqual([]);
  });

  it('leaves out who was tried in the 28 days before, and who never came', () => {
    const always = Array.from({ length: 12 }, (_, week) => 7 * week);
    const own = cohort(120);
    expect(chancesOf([{ ...own, contacts: own.learners.map(() => always) }], drift, DEFAULT_EDGES)).toEqual([]);
    const never = own.weeks.map((week) => ({
      ...week,
      seen: week.seen.map((one) => ({ ...one, absence: { hasCome: false, days: 9 } })),
    }));
    expect(chancesOf([{ ...own, weeks: never }], drift, DEFAULT_EDGES)).toEqual([]);
  });
});
