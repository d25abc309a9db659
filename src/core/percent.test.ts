import { expect, it } from 'vitest';
import { sayPercent, sayShare } from './percent';

it('per cent are whole, or with as many digits as are asked for; none is a dash', () => {
  expect(sayPercent(71.25)).toBe('71 %');
  expect(sayPercent(71.25, 1)).toBe('71.3 %');
  expect(sayPercent(70, 1)).toBe('70 %');
  expect(sayPercent(0)).toBe('0 %');
  expect(sayPercent(null)).toBe('–');
  expect(sayShare(0.7125)).toBe('71 %');
  expect(sayShare(null)).toBe('–');
});
