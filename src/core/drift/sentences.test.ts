import { describe, expect, it } from 'vitest';
import { say, sayBriefly, sayWhole } from './sentences';
import type { Sentence } from './sentence';

const quiet: Sentence = { name: 'quiet', days: 9, counted: 9, usual: 2.4 };
const missing: Sentence = { name: 'missing', missing: 2, of: 3, days: 21 };
const working: Sentence = { name: 'working', own: 0, of: 14, usual: 10 };
const talking: Sentence = { name: 'talking', own: 0, of: 28, usual: 4 };

describe('a sentence', () => {
  it('says the fact, then the number, then the habit', () => {
    expect(sayWhole(quiet)).toBe('Quiet 9 days · usually every 2 days');
    expect(sayWhole({ ...quiet, days: 1, counted: 1, usual: 1 })).toBe('Quiet 1 day · usually daily');
    expect(sayWhole({ ...quiet, days: 0, counted: 0 })).toBe('Here today · usually every 2 days');
    expect(sayWhole(missing)).toBe('2 of 3 assignments not handed in · due in the last 21 days');
  });

  it('says how many days count where a break or a gap is left out', () => {
    expect(say({ ...quiet, days: 10, counted: 2, usual: 1 }).more).toEqual(['usually daily', '2 of them count']);
  });

  it('says that it is not held against whoever is ahead', () => {
    expect(sayWhole({ ...quiet, ahead: 1 })).toBe(
      'Quiet 9 days · usually every 2 days · 1 week ahead of plan and nothing overdue: not held against them',
    );
  });

  it('of an earlier model says that it is one', () => {
    expect(say({ name: 'long_quiet', days: 21, atLeast: 65 })).toEqual({
      fact: 'read by an earlier model',
      more: [],
      short: 'read by an earlier model',
    });
    expect(say({ name: 'kept', text: 'Quiet for long' }).fact).toBe('Quiet for long');
  });
});

describe('reasons in brief', () => {
  it('are the fact of the first and the others in short', () => {
    expect(sayBriefly([quiet, missing, { ...working, own: 2 }, talking])).toEqual({
      fact: 'Quiet 9 days',
      others: ['2 of 3 not handed in', 'worked or talked 2 times', 'not a word'],
    });
  });

  it('say nothing twice', () => {
    expect(sayBriefly([missing, working, talking]).others).toEqual(['no work or talk']);
    expect(sayBriefly([talking, working]).others).toEqual(['no work or talk']);
    expect(sayBriefly([])).toEqual({ fact: '', others: [] });
  });
});
