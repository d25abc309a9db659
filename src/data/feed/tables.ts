/** Tables of what feeds the log. */
import type { Protocol } from '@/core/feed/protocol';
import { integer, orNull, real, text, type TableColumns } from '../column';

export const FEED_TABLES = {
  feed_gap: {
    id: integer(),
    source_id: integer(),
    from_at: integer(),
    to_at: integer(),
    state: text(),
    reason: text(),
    expected: orNull(real),
    came: integer(),
    staff_id: orNull(integer()),
    changed_at: orNull(integer()),
    by_itself: integer(),
  },
  source: {
    id: integer(),
    name: text(),
    last_event_at: orNull(integer()),
    ahead_ms: integer(),
    ahead_at: orNull(integer()),
    live_at: orNull(integer()),
  },
  source_course: {
    source_id: integer(),
    course_id: integer(),
  },
  source_credential: {
    id: integer(),
    source_id: integer(),
    key: text(),
    secret_hash: text(),
    created_at: integer(),
    ended_at: orNull(integer()),
    staff_id: orNull(integer()),
    protocol: text<Protocol>(),
  },
  statement: {
    id: integer(),
    uuid: text(),
    source_id: integer(),
    stored: integer(),
    at: integer(),
    state: text(),
    waits_for: orNull(text()),
    event_id: orNull(integer()),
    body: text(),
  },
  statement_key: {
    id: integer(),
    source_id: integer(),
    key: text(),
  },
  statement_link: {
    what: text(),
    key_id: integer(),
    statement_id: integer(),
    via: integer(),
  },
} as const satisfies TableColumns;
