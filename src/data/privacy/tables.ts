/** Tables of what is promised to learners about their data. */
import { integer, orNull, text, type TableColumns } from '../column';

export const PRIVACY_TABLES = {
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
  look: {
    id: integer(),
    at: integer(),
    staff_id: orNull(integer()),
    learner_id: orNull(integer()),
    what: text(),
    subject: text(),
  },
} as const satisfies TableColumns;
