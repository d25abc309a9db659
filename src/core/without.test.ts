import { expect, it } from 'vitest';
import { without } from './without';

it('leaves fields out, and what it is given as it is', () => {
  const given = { a: 1, b: 2 };
  expect(without(given, 'b', 'c')).toEqual({ a: 1 });
  expect(given).toEqual({ a: 1, b: 2 });
});
