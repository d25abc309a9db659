import { describe, expect, it } from 'vitest';
import { say, sayWhole } from './sentences';
import { talking } from './talking';
import { facts } from './testing';
import type { EnrolmentFacts } from './types';
import { working } from './working';

/** Somebody who worked and talked so often on each of some days. */
const one = (efforts: [day: number, worked: number, talked: number][], more: Partial<EnrolmentFacts> = {}) =>
  facts({ efforts, activeDays: efforts.map(([day]) => day), ...more });

/** The same median for everybody, however long they have been there. */
const usual = (median: number | null) => Array<number | null>(29).fill(median);

describe('working', () => {
  const group = [one([[95, 4, 0]]), one([[90, 6, 2]]), one([[88, 10, 2]]), one([[92, 6, 0]]), one([])];
  const median = working.ofGroup!(group);

  it('is held against the group’s median of worked and talked events over 14 counted days', () => {
    // 4, 8, 12, 6 and 0.
    expect(median.at(-1)).toBe(6);
    expect(working.assess(one([[100, 2, 1]]), median)).toMatchObject({ says: { own: 3, of: 14, usual: 6 } });
    expect(working.assess(one([[100, 2, 1]]), median)?.value).toBeCloseTo(0.5 / 0.8);
    expect(
      [one([]), one([[90, 1, 0]]), one([[90, 9, 9]])].map((facts) => working.assess(facts, median)?.value),
    ).toEqual([1, 1, 0]);
  });

  it('looks back 14 days that count, and at nothing after its day', () => {
    expect(working.assess(one([[86, 5, 0]]), usual(6))?.says).toMatchObject({ own: 0 });
    expect(working.assess(one([[87, 5, 0]]), usual(6))?.says).toMatchObject({ own: 5 });
    // A break draws what lies before it into the stretch; what was done in it does not count.
    expect(
      working.assess(
        one(
          [
            [80, 5, 0],
            [92, 7, 0],
          ],
          { skipped: [[90, 97]] },
        ),
        usual(6),
      )?.says,
    ).toMatchObject({ own: 5 });
    expect(working.assess(one([[101, 5, 0]]), usual(6))?.says).toMatchObject({ own: 0 });
  });

  it('holds whoever came later against people as long in the course, or nobody', () => {
    const old = [1, 2, 3, 4, 5].map(() => one([[95, 20, 0]]));
    const fresh = (worked: number, enrolledDay = 92) => one([[95, worked, 0]], { enrolledDay });
    const few = working.ofGroup!([...old, fresh(2), fresh(3)]);
    expect([few[9], few[14]]).toEqual([null, 20]);
    expect(working.assess(fresh(1), few)).toBeNull();
    const many = working.ofGroup!([...old, fresh(4), fresh(4, 91), fresh(4, 93), fresh(6), fresh(8)]);
    expect(many[9]).toBe(4);
    expect(working.assess(fresh(4), many)!.value).toBe(0);
    // What was done in an earlier time in the course is not of this one.
    expect(working.assess(one([[90, 9, 0]], { enrolledDay: 92 }), many)!.says).toMatchObject({ own: 0 });
  });

  it('says nothing where the group hardly works, or there is none', () => {
    expect(working.ofGroup!([])).toEqual(usual(null).slice(0, 15));
    expect([null, 0, 2.5].map((of) => working.assess(one([]), usual(of)))).toEqual([null, null, null]);
    expect(working.assess(one([]), usual(3))).not.toBeNull();
  });

  it('says what was done, and what half of the group did', () => {
    expect(sayWhole(working.assess(one([]), usual(6))!.says)).toBe(
      'Worked or talked not once in 14 days · half of the group 6 times or more',
    );
    expect(say(working.assess(one([[100, 1, 0]]), usual(6))!.says).short).toBe('worked or talked 1 time');
  });
});

describe('talking', () => {
  it('is of talked events alone, over 28 counted days', () => {
    const group = [
      [80, 2],
      [75, 4],
      [99, 6],
      [99, 4],
      [98, 4],
    ].map(([day, talked]) => one([[day, 9, talked]]));
    expect(talking.ofGroup!(group).at(-1)).toBe(4);
    expect(
      talking.assess(
        one([
          [74, 3, 1],
          [90, 30, 0],
        ]),
        usual(4),
      ),
    ).toMatchObject({ says: { own: 1, of: 28, usual: 4 } });
    expect(talking.assess(one([[72, 0, 9]]), usual(4))?.value).toBe(1);
    expect(talking.assess(one([]), usual(1.5))).toBeNull();
    expect(sayWhole(talking.assess(one([]), usual(2))!.says)).toBe(
      'Not a word in 28 days · half of the group 2 times or more',
    );
  });
});
