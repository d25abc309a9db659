import { expect, it } from 'vitest';
import { meaningOf, personOf, valuesOf } from './claims';

const rule = (claim: string, value: string, role: 'lead' | 'mentor' | null, kind: 'course' | null = null) => ({
  claim,
  value,
  role,
  scope_kind: kind,
  target: kind ? 'DRY' : '',
});

it.each([
  [{ groups: ['a', 'b', 7, null, {}] }, 'groups', ['a', 'b', '7']],
  [{ groups: 'a' }, 'groups', ['a']],
  [{ staff: true }, 'staff', ['true']],
  [{ realm: { groups: ['a'] } }, 'realm.groups', ['a']],
  [{ 'https://college.example/roles': ['a'] }, 'https://college.example/roles', ['a']],
  [{}, 'constructor', []],
  [{}, '__proto__.toString', []],
  [{ realm: null }, 'realm.groups', []],
])('of %j the claim %s has %j', (claims, path, values) => expect(valuesOf(claims, path)).toEqual(values));

it('of several roles takes the first there is, and every scope', () => {
  const rules = [
    rule('groups', 'mentors', 'mentor'),
    rule('groups', 'heads', 'lead'),
    rule('groups', 'mentors', null, 'course'),
  ];
  expect(meaningOf({ groups: ['mentors', 'heads'] }, rules)).toEqual({
    role: 'lead',
    scopes: [{ kind: 'course', target: 'DRY' }],
  });
  expect(meaningOf({ groups: ['cooks'] }, rules)).toEqual({ role: null, scopes: [] });
});

it('takes an e-mail that is vouched for alone', () => {
  const claims = { email: ' mair@staff.example ', email_verified: true, given_name: 'Mair', family_name: 'Tolland' };
  expect(personOf(claims)).toEqual({ email: 'mair@staff.example', given_name: 'Mair', family_name: 'Tolland' });
  expect(personOf({ ...claims, given_name: '', name: 'Mair Tolland' })).toMatchObject({ given_name: 'Mair Tolland' });
  for (const email_verified of [false, 'true', 1, undefined])
    expect(personOf({ ...claims, email_verified })).toBeNull();
  for (const email of [undefined, '', 'nobody', 7]) expect(personOf({ ...claims, email })).toBeNull();
});
