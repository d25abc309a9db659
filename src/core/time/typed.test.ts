import { describe, expect, it } from 'vitest';
import { readTypedDay, readTypedTime } from './typed';
import { dateOfDay, dayFromDate } from './zone';

/** A Tuesday. */
const TODAY = dayFromDate('2026-11-24')!;

function read(text: string, today = TODAY): string | null {
  const day = readTypedDay(text, today);
  return day === null ? null : dateOfDay(day);
}

describe('a typed day', () => {
  it.each([
    ['2026-11-30', '2026-11-30'],
    ['30/11/2026', '2026-11-30'],
    ['30.11.26', '2026-11-30'],
    ['3/4/2027', '2027-04-03'],
    ['30 Nov', '2026-11-30'],
    ['Mon 30 Nov', '2026-11-30'],
    ['Mon 30 Nov 2026', '2026-11-30'],
    ['30th november, 2026', '2026-11-30'],
    ['today', '2026-11-24'],
    ['Tomorrow', '2026-11-25'],
    ['yesterday', '2026-11-23'],
    ['tue', '2026-11-24'],
    ['fri', '2026-11-27'],
    ['Monday', '2026-11-30'],
    ['+3', '2026-11-27'],
    ['in 2 weeks', '2026-12-08'],
    ['10 days ago', '2026-11-14'],
    ['1 w ago', '2026-11-17'],
  ])('%s is %s', (text, date) => expect(read(text)).toBe(date));

  it('without a year is the nearest', () => {
    expect(read('2 Jan')).toBe('2027-01-02');
    expect(read('20 Dec', dayFromDate('2027-01-05')!)).toBe('2026-12-20');
    expect(read('29.2.', dayFromDate('2027-12-01')!)).toBe('2028-02-29');
  });

  it.each(['', '30 Feb 2026', '31/11', '13/13/2026', 'soon', '24 Nov 20266', 'm', '99', '+'])('%j is none', (text) =>
    expect(read(text)).toBeNull(),
  );
});

describe('a typed time', () => {
  it.each([
    ['9', '09:00'],
    ['9:30', '09:30'],
    ['9.30', '09:30'],
    ['1830', '18:30'],
    ['18h30', '18:30'],
    ['6 pm', '18:00'],
    ['12am', '00:00'],
    ['12:15 p.m.', '12:15'],
    ['00:00', '00:00'],
  ])('%s is %s', (text, time) => expect(readTypedTime(text)).toBe(time));

  it.each(['', '24:00', '9:60', '13pm', '0 am', 'noon', '9:3'])('%j is none', (text) =>
    expect(readTypedTime(text)).toBeNull(),
  );
});
