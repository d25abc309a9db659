import { describe, expect, it } from 'vitest';
import { say } from './sentences';
import { sessions } from './sessions';
import { facts } from './testing';

/** Sessions a week apart, each attended or missed; the last a week before the reading. */
const assess = (credits: number[], day = 100) =>
  sessions.assess(
    facts({ day, sessions: credits.map((credit, i) => [100 - 7 * (credits.length - i), credit]) }),
    undefined,
  );

describe('the sessions factor', () => {
  it('ramps with the sessions missed in a row', () => {
    expect(
      [
        [1, 1],
        [1, 0],
        [0, 0],
        [1, 0, 0, 0],
      ].map((credits) => assess(credits)?.value),
    ).toEqual([0, 0.5, 1, 1]);
    expect(assess([0, 0, 0.5])?.value).toBe(0);
  });

  it('says nothing of fewer than two that count', () => {
    expect(assess([])).toBeNull();
    expect(assess([0])).toBeNull();
  });

  it('knows nothing of what comes after its day', () => {
    expect(assess([1, 1, 0, 0], 87)?.value).toBe(0.5);
    expect(assess([1, 1, 0, 0], 80)?.value).toBe(0);
  });

  it('calls a single miss among others attended a blip, and several by their number', () => {
    const fact = (credits: number[]) => say(assess(credits)!.says).fact;
    expect(fact([1, 1, 1, 0])).toBe('Missed the last session: a blip');
    expect(fact([0, 1, 0])).toBe('Missed the last session');
    expect(fact([1, 1, 0, 0, 0])).toBe('Missed the last 3 sessions');
    expect(fact([1, 0.75])).toBe('At the last session');
    expect(say(assess([0, 0])!.says).more).toEqual(['none of 2 attended']);
    expect(say(assess([1, 1, 0])!.says).more).toEqual(['at the 2 before it']);
  });
});
