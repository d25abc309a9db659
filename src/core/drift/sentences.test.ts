import { describe, expect, it } from 'vitest';
import { say, sayBriefly, sayWhole, type Sentence } from './sentences';

const quiet: Sentence = { name: 'quiet', days: 9, counted: 9, usual: 2.4 };
const fading: Sentence = { name: 'fading', active: 1, of: 14, usual: 9 };
const silent: Sentence = { name: 'silent', efforts: 0, of: 28, usual: 10 };
const never: Sentence = { name: 'never_opened', days: 12, since: 'enrolled' };

describe('a sentence', () => {
  it('says the fact, then the number, then the habit', () => {
    expect(sayWhole(quiet)).toBe('Quiet 9 days · usually every 2 days');
    expect(sayWhole({ ...quiet, days: 1, counted: 1, usual: 1 })).toBe('Quiet 1 day · usually daily');
    expect(sayWhole({ ...quiet, days: 0, counted: 0 })).toBe('Here today · usually every 2 days');
    expect(sayWhole(fading)).toBe('On 1 of the last 14 days · usually 9');
    expect(sayWhole(silent)).toBe('Worked or talked not once in 28 days · half of the group 10 times or more');
    expect(sayWhole({ ...silent, efforts: 1 })).toMatch(/^Worked or talked 1 time in/);
    expect(sayWhole(never)).toBe('Never opened it · enrolled 12 days ago');
    expect(sayWhole({ name: 'long_quiet', days: 21, atLeast: 65 })).toBe('No access for 21 days · at least 65');
  });

  it('says how many days count where a break or a gap is left out', () => {
    expect(say({ ...quiet, days: 10, counted: 2, usual: 1 }).more).toEqual(['usually daily', '2 of them count']);
  });
});

describe('reasons in brief', () => {
  it('are the strongest whole and the others in short', () => {
    expect(sayBriefly([quiet, fading, silent])).toEqual({
      fact: 'Quiet 9 days',
      more: 'usually every 2 days',
      others: 'on 1 of 14 days, usually 9, no work or talk',
    });
  });

  it('say nothing twice', () => {
    expect(sayBriefly([never, silent, { name: 'never_accessed', days: 12, atLeast: 70 }]).others).toBe('');
    expect(sayBriefly([{ name: 'long_quiet', days: 21, atLeast: 65 }, quiet, fading]).others).toBe(
      'on 1 of 14 days, usually 9',
    );
    expect(sayBriefly([])).toEqual({ fact: '', more: '', others: '' });
  });
});
