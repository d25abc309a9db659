/** Tables of what is promised to learners about their data. */
import type { KindByCourse } from '@/core/privacy/retention';
import { integer, orNull, text, type TableColumns } from '../column';

export const PRIVACY_TABLES = {
  archive: {
    course_id: integer(),
    state: text<'asked' | 'emptying' | 'done'>(),
    asked_at: integer(),
    staff_id: orNull(integer()),
    done_at: orNull(integer()),
    error: orNull(text()),
    to_day: orNull(integer()),
    to_at: orNull(integer()),
  },
  archive_file: {
    id: integer(),
    course_id: integer(),
    month: text(),
    name: text(),
    events: integer(),
    bytes: integer(),
    sum: text(),
    first_at: integer(),
    last_at: integer(),
  },
  erasure: {
    id: integer(),
    learner_id: integer(),
    asked_at: integer(),
    staff_id: orNull(integer()),
    reason: text(),
    until: integer(),
    taken_back_at: orNull(integer()),
    taken_back_by: orNull(integer()),
    emptied_at: orNull(integer()),
    done_at: orNull(integer()),
    mark: orNull(text()),
  },
  gone: {
    course_id: integer(),
    kind: text<KindByCourse>(),
    began_at: integer(),
    done_at: orNull(integer()),
    to_day: integer(),
    to_at: integer(),
  },
  look: {
    id: integer(),
    at: integer(),
    staff_id: orNull(integer()),
    learner_id: orNull(integer()),
    what: text(),
    subject: text(),
  },
} as const satisfies TableColumns;
