export const STAFF_ROLES = ['lead', 'instructor', 'mentor', 'coordinator'] as const;
export type StaffRole = (typeof STAFF_ROLES)[number];
export const SCOPE_KINDS = ['all', 'organisation', 'course', 'group', 'learner'] as const;
export type ScopeKind = (typeof SCOPE_KINDS)[number];
