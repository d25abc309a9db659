import { describe, expect, it } from 'vitest';
import { roleOfColumn, roleOfHeading, unitOfHeading } from './roles';

describe('what a heading means', () => {
  it.each([
    ['E-Mail-Adresse', 'email'],
    ['Courriel', 'email'],
    ['Nom', 'family_name'],
    ['Prénom', 'given_name'],
    ['Name', 'name'],
    ['Full name', 'name'],
    ['Letzter Zugriff', 'last_access'],
    ['Dernier accès', 'last_access'],
    ['Time in meeting', 'duration'],
    ['Gruppe', 'group'],
    ['LAST_NAME', 'family_name'],
    ['Duration (minutes)', 'duration'],
    ['What', 'action'],
    ['Where', 'item'],
    ['Quiz 1', null],
    ['', null],
  ])('%s', (heading, role) => expect(roleOfHeading(heading)).toBe(role));

  it.each([
    ['Duration (minutes)', 60_000],
    ['Dauer [min]', 60_000],
    ['Minutes online', 60_000],
    ['Time in hours', 3_600_000],
    ['Duration', null],
    ['Plan B d', null],
  ])('the unit of %s', (heading, ms) => expect(unitOfHeading(heading)).toBe(ms));
});

describe('what a column is about', () => {
  it('is told by its cells before its heading', () => {
    expect(roleOfColumn('Account', ['a@s.example', 'b@s.example', ''])).toBe('email');
    expect(roleOfColumn('Account', ['marrow1', 'quill2'])).toBe('account');
    expect(roleOfColumn('Mail', ['yes', 'no'])).toBeNull();
    expect(roleOfColumn('Mail', ['', ''])).toBe('email');
  });

  it('knows an age for a last access, and a length for a stay', () => {
    expect(roleOfColumn('Zuletzt', ['3 Tage', 'Nie', '16 Stunden 29 Minuten'])).toBe('last_access');
    expect(roleOfColumn('Time', ['51 min 05 s', '4 min 00 s'])).toBe('duration');
    expect(roleOfColumn('Time', ['2026-11-24T09:10:00Z'])).toBe('time');
    expect(roleOfColumn('Duration (min)', ['51', '4'])).toBe('duration');
    expect(roleOfColumn('Duration', ['a while'])).toBeNull();
  });
});
