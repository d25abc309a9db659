import { describe, expect, it } from 'vitest';
import { ACTION_KINDS, KNOWN_ACTIONS, isKnownAction, kindOfAction } from './kinds';

describe('the kind of a source’s word', () => {
  it.each([
    ['opened', 'looked', true],
    ['submitted', 'worked', true],
    ['replied', 'talked', true],
    ['signed_in', 'other', true],
    ['signed_out', 'other', true],
    ['glimpsed', 'other', false],
    ['Opened', 'other', false],
    ['constructor', 'other', false],
    ['', 'other', false],
  ] as const)('%j is %s, known without mapping: %s', (word, kind, known) => {
    expect(kindOfAction(word)).toBe(kind);
    expect(isKnownAction(word)).toBe(known);
  });

  it('is one of the four for every known word', () => {
    for (const kind of Object.values(KNOWN_ACTIONS)) expect(ACTION_KINDS).toContain(kind);
  });
});
