/** Tables of staff. */
import type { ScopeKind, StaffRole } from '@/core/staff/roles';
import { integer, orNull, text, type TableColumns } from '../column';

export const STAFF_TABLES = {
  audit: {
    id: integer(),
    at: integer(),
    staff_id: orNull(integer()),
    learner_id: orNull(integer()),
    course_id: orNull(integer()),
    what: text(),
    subject: text(),
    changes: text(),
  },
  known_browser: {
    token_hash: text(),
    staff_id: integer(),
    at: integer(),
  },
  saved_view: {
    id: integer(),
    staff_id: integer(),
    name: text(),
    query: text(),
    ended_at: orNull(integer()),
  },
  session_token: {
    token_hash: text(),
    staff_id: integer(),
    created_at: integer(),
    expires_at: integer(),
    names_hidden: integer(),
    handle: orNull(text()),
    agent: text(),
    seen_at: orNull(integer()),
  },
  sign_in_try: {
    key: text(),
    failures: integer(),
    until: integer(),
    at: integer(),
  },
  staff: {
    id: integer(),
    external_id: text(),
    given_name: text(),
    family_name: text(),
    email: text(),
    role: text<StaffRole>(),
    password_hash: orNull(text()),
    ended_at: orNull(integer()),
  },
  staff_scope: {
    id: integer(),
    staff_id: integer(),
    kind: text<ScopeKind>(),
    organisation_id: orNull(integer()),
    course_id: orNull(integer()),
    group_id: orNull(integer()),
    learner_id: orNull(integer()),
  },
  staff_setting: {
    staff_id: integer(),
    name: text(),
    value: text(),
  },
} as const satisfies TableColumns;
