/** What the claims of a provider (OpenID Connect Core 1.0, 5.1) mean here. */
import { STAFF_ROLES, type ScopeKind, type StaffRole } from './roles';

interface Rule {
  claim: string;
  value: string;
  role: StaffRole | null;
  scope_kind: ScopeKind | null;
  target: string;
}

/**
 * The values of a claim, as texts: of a list each, of one inside of others by its path with dots.
 *
 * @example valuesOf({ realm: { groups: ['a', 'b'] } }, 'realm.groups') // ['a', 'b']
 */
export function valuesOf(claims: Readonly<Record<string, unknown>>, path: string): string[] {
  const own = (from: unknown, name: string): unknown =>
    typeof from === 'object' && from !== null && Object.hasOwn(from, name)
      ? (from as Record<string, unknown>)[name]
      : undefined;
  // A claim may have a dot, or a whole address, as its name.
  const found = own(claims, path) ?? path.split('.').reduce(own, claims as unknown);
  const all = Array.isArray(found) ? found : [found];
  return all.filter((one) => ['string', 'number', 'boolean'].includes(typeof one)).map(String);
}

/** The role and the scopes that claims give: of several roles the first of `STAFF_ROLES`; null where none is given. */
export function meaningOf(
  claims: Readonly<Record<string, unknown>>,
  rules: readonly Rule[],
): { role: StaffRole | null; scopes: { kind: ScopeKind; target: string }[] } {
  const held = rules.filter(({ claim, value }) => valuesOf(claims, claim).includes(value));
  return {
    role: STAFF_ROLES.find((role) => held.some((rule) => rule.role === role)) ?? null,
    scopes: held.flatMap(({ scope_kind, target }) => (scope_kind === null ? [] : [{ kind: scope_kind, target }])),
  };
}

/** Who somebody is by their claims; null where something of it is missing, or the e-mail is not vouched for. */
export interface Person {
  email: string;
  given_name: string;
  family_name: string;
}

/** The e-mail that the provider vouches for, and the name; null without one: an e-mail that anybody may type is nobody's. */
export function personOf(claims: Readonly<Record<string, unknown>>): Person | null {
  const text = (name: string) => (typeof claims[name] === 'string' ? claims[name].trim().slice(0, 200) : '');
  const email = text('email');
  if (claims.email_verified !== true || !/^[^\s@]+@[^\s@]+$/.test(email)) return null;
  const whole = text('name');
  const given_name = text('given_name') || whole || email.split('@')[0];
  return { email, given_name, family_name: text('given_name') ? text('family_name') : '' };
}
