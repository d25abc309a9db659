import { expect, it } from 'vitest';
import { USUAL_TEXT, certificateNumber, fillCertificate, readNumber } from './certificate';

it('makes a number of signs that nobody takes for one another', () => {
  expect(certificateNumber(new Uint8Array(12))).toBe('2222-2222-2222');
  expect(certificateNumber(Uint8Array.from({ length: 16 }, (_, index) => index))).toBe('2345-6789-ABCD');
});

it.each([
  ['2345-6789-ABCD', '2345-6789-ABCD'],
  [' 2345 6789 abcd ', '2345-6789-ABCD'],
  ['23456789ABC', null],
  ['2345-6789-ABC0', null],
  ['', null],
  ['<'.repeat(100_000), null],
])('reads %j', (typed, number) => expect(readNumber(typed)).toBe(number));

it('fills in the course and the day, and nothing else', () => {
  expect(fillCertificate(USUAL_TEXT, { course: 'Knots', day: '3 December 2026' })).toBe(
    'has completed the course Knots on 3 December 2026.',
  );
  expect(fillCertificate('{{name}} {{ course }} $&', { course: '$1', day: '' })).toBe('{{name}} $1 $&');
});
