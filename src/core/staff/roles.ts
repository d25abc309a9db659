export const STAFF_ROLES = ['lead', 'instructor', 'mentor', 'coordinator'] as const;
export type StaffRole = (typeof STAFF_ROLES)[number];
export const SCOPE_KINDS = ['all', 'organisation', 'course', 'group', 'learner'] as const;
export type ScopeKind = (typeof SCOPE_KINDS)[number];

/** A scope in words: *everyone*, *course DRY*, *group DRY/A*. */
export function sayScope({ kind, target }: { kind: ScopeKind; target: string }): string {
  return kind === 'all' ? 'everyone' : `${kind} ${target}`;
}
