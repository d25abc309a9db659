import { expect, it } from 'vitest';
import { cursorsUnder } from './cursor';

const places = cursorsUnder(Buffer.alloc(16, 7));

it('places open as they were sealed, tell nothing, and cannot be made up', () => {
  for (const id of [0, 1, 2, 20_000_000, 2 ** 40]) expect(places.open(places.seal(id))).toBe(id);
  expect(places.seal(1)).toBe(places.seal(1));
  expect(places.seal(1).slice(0, 8)).not.toBe(places.seal(2).slice(0, 8));
  for (const text of ['', '12', 'x'.repeat(22), cursorsUnder(Buffer.alloc(16, 8)).seal(5)]) {
    expect(places.open(text)).toBeNull();
  }
});
