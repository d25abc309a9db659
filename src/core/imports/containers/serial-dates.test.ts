import { describe, expect, it } from 'vitest';
import { lookOfFormat, sayNumber } from './serial-dates';

describe('numbers of spreadsheets', () => {
  it.each([
    [14, undefined, 'date'],
    [22, undefined, 'date'],
    [20, undefined, 'time'],
    [46, undefined, 'length'],
    [0, undefined, 'number'],
    [164, 'dd/mm/yyyy hh:mm', 'date'],
    [165, '[$-409]d mmm yy;@', 'date'],
    [166, '[h]:mm:ss', 'length'],
    [167, 'hh:mm', 'time'],
    [168, 'mmm', 'date'],
    [169, '#,##0.00', 'number'],
    [170, '0 "days"', 'number'],
    [171, '[Red]0.0%', 'percent'],
    [172, 'General', 'number'],
  ] as const)('the format %s %s makes them a %s', (id, code, look) => {
    expect(lookOfFormat(id, code)).toBe(look);
  });

  it.each([
    [46293.5535185185, 'date', false, '2026-09-28T13:17:04'],
    [46293, 'date', false, '2026-09-28'],
    [44831, 'date', true, '2026-09-28'],
    // The first of March 1900, after the day that never was; and the first day of all.
    [61, 'date', false, '1900-03-01'],
    [1, 'date', false, '1900-01-01'],
    [0.75, 'time', false, '18:00:00'],
    [1.5, 'length', false, '36:00:00'],
    [12.5, 'number', false, '12.5'],
    [-3, 'date', false, '-3'],
    [9e9, 'date', false, '9000000000'],
  ] as const)('%s as %s (1904: %s) is %s', (value, look, is1904, text) => {
    expect(sayNumber(value, look, is1904)).toBe(text);
  });
});
