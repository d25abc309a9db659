import { describe, expect, it } from 'vitest';
import { packCell, unpackCell } from './packed-cell';
import { ITEM_STATES } from './state';

describe('a cell in one letter', () => {
  it('comes back as it was, whatever it was', () => {
    const all = ITEM_STATES.flatMap((state) =>
      [true, false].flatMap((isOverdue) => [true, false].map((isByHand) => ({ state, isOverdue, isByHand }))),
    );
    expect(all.map((cell) => unpackCell(packCell(cell)))).toEqual(all);
    expect(new Set(all.map(packCell)).size).toBe(all.length);
    expect(all.every((cell) => packCell(cell).length === 1)).toBe(true);
  });
});
