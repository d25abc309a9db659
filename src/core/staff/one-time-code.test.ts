import { expect, it } from 'vitest';
import { generateSync } from 'otplib';
import { isOneTimeSecret, newOneTimeSecret, oneTimeUri, stepOfCode, tidyRecoveryCode } from './one-time-code';

/** The secret of RFC 6238's own examples, and a code of them: 8 digits there, the last 6 here. */
const RFC = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';

it('takes the codes of RFC 6238, appendix B', () => {
  expect(stepOfCode(RFC, '287082', 59_000, 0)).toBe(1);
  expect(stepOfCode(RFC, '081804', 1_111_111_109_000, 0)).toBe(37_037_036);
  expect(stepOfCode(RFC, '005 924', 1_234_567_890_000, 0)).toBe(41_152_263);
});

it('takes a code of the step before and after, none twice, and none further away', () => {
  const at = 1_234_567_890_000;
  expect(stepOfCode(RFC, '005924', at + 30_000, 0)).toBe(41_152_263);
  expect(stepOfCode(RFC, '005924', at - 30_000, 0)).toBe(41_152_263);
  expect(stepOfCode(RFC, '005924', at + 60_001, 0)).toBeNull();
  expect(stepOfCode(RFC, '005924', at, 41_152_263)).toBeNull();
  for (const wrong of ['', '00592', '0059244', 'abcdef', '٠٠٥٩٢٤']) expect(stepOfCode(RFC, wrong, at, 0)).toBeNull();
});

it('makes secrets that it knows, and the picture that an app reads', () => {
  const secret = newOneTimeSecret();
  expect(isOneTimeSecret(secret)).toBe(true);
  expect(isOneTimeSecret('AAAA')).toBe(false);
  const uri = new URL(oneTimeUri(secret, 'mair@staff.example'));
  expect(uri.protocol).toBe('otpauth:');
  expect(uri.searchParams.get('secret')).toBe(secret);
  const code = generateSync({ strategy: 'totp', secret, digits: 6, period: 30, epoch: 90 });
  expect(stepOfCode(secret, code, 90_000, 2)).toBe(3);
});

it.each([
  ['k7m2x-9qpd4', 'k7m2x-9qpd4'],
  [' K7M2X 9qpd4 ', 'k7m2x-9qpd4'],
  ['k7m2x9qpd', null],
  ['k7m2x-9qpd1', null],
  ['123456', null],
])('%j is the code on paper %j', (typed, tidy) => expect(tidyRecoveryCode(typed)).toBe(tidy));
