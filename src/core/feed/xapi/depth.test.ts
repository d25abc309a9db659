import { expect, it } from 'vitest';
import { depthOf } from './depth';

it.each([
  ['1', 0],
  ['{}', 1],
  ['{"a": [1, {}]}', 3],
  ['["[[[[", "\\"[[["]', 1],
  ['[{}, {}, [[]]]', 3],
  ['['.repeat(200_000), 200_000],
])('%s', (json, depth) => expect(depthOf(json)).toBe(depth));
