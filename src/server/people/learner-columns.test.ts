import { describe, expect, it } from 'vitest';
import { dayFromDate } from '@/core/time/zone';
import type { LearnerRow } from '@/data/people/learners';
import { columnNames, readColumns } from '../request/list';
import { CELLS, USUAL_COLUMNS } from './learner-columns';
import { LEARNERS, lineOf } from './learner-list';

const NAMES = columnNames(LEARNERS);
const usual = NAMES.filter((name) => USUAL_COLUMNS.includes(name));

const NOW = Date.parse('2026-11-24T09:10:00Z');
const row: LearnerRow = {
  id: 1,
  learner_id: 'L1',
  given_name: 'Ines',
  family_name: 'Marrow',
  email: null,
  phone: '+44 1632 960001',
  organisation: null,
  courses: ['DRY', 'NET'],
  enrolled_day: dayFromDate('2026-09-28')!,
  last_at: null,
  ms: 0,
  contact_at: null,
  overdue: 2,
  score: null,
  band: null,
  provisional: 0,
};
const cells = (changes: Partial<LearnerRow>) => {
  const line = lineOf({ ...row, ...changes }, { now: NOW, zone: 'Europe/Dublin' });
  return Object.fromEntries(NAMES.map((name, place) => [name, line.cells[place]]));
};

describe('the columns of the Learners list', () => {
  it('each stand in one cell, once', () => {
    expect(CELLS.flat().sort()).toEqual([...NAMES].sort());
  });

  it.each([
    ['phone,drift', ['phone', 'drift']],
    ['drift,drift', ['drift']],
    ['drift,height', ['drift']],
    ['height', usual],
    ['', usual],
    [null, usual],
    [undefined, usual],
  ])('%j are read as %j', (text, columns) => {
    expect(readColumns(LEARNERS, text)).toEqual(columns);
  });
});

describe('a learner of the list in words', () => {
  it('says what is not known, and never shows it as zero', () => {
    expect(cells({})).toEqual({
      organisation: 'on their own',
      courses: 'DRY, NET',
      enrolled: 'Mon 28 Sep',
      drift: 'no reading',
      last_access: 'never',
      days_quiet: '–',
      minutes_online: 'no time',
      last_contact: 'no contact',
      phone: '+44 1632 960001',
      email: '',
      overdue: '2 overdue',
    });
  });

  it.each([
    ['2026-11-24T00:30:00Z', 'today'],
    ['2026-11-23T23:59:00Z', 'quiet 1 day'],
    ['2026-11-15T10:00:00Z', 'quiet 9 days'],
  ])('last there at %s is %s', (at, says) => {
    expect(cells({ last_at: Date.parse(at) }).days_quiet).toBe(says);
  });

  it.each([
    [59_000, 'about 1 min'],
    [9 * 3_600_000 + 59 * 60_000, 'about 9 h 59 min'],
    [10 * 3_600_000 + 29 * 60_000, 'about 10 h'],
    [80 * 3_600_000 + 31 * 60_000, 'about 81 h'],
  ])('%i ms online is %s: from ten hours on, minutes would only look exact', (ms, says) => {
    expect(cells({ ms }).minutes_online).toBe(says);
  });
});
