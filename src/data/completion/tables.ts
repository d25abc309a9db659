/** Tables of how far people are. */
import { integer, orNull, real, text, type TableColumns } from '../column';

export const COMPLETION_TABLES = {
  completion_override: {
    id: integer(),
    learner_id: integer(),
    item_id: integer(),
    state: text<'done' | 'exempt'>(),
    reason: text(),
    staff_id: orNull(integer()),
    at: integer(),
  },
  watched: {
    id: integer(),
    learner_id: integer(),
    item_id: integer(),
    at: integer(),
    share: real,
  },
  enrolment_progress: {
    enrolment_id: integer(),
    done: integer(),
    required: integer(),
    begun: integer(),
    completed_at: orNull(integer()),
    done_days: text(),
    plan: text(),
    tracks: text(),
    open_dues: text(),
    waits: text(),
    on_graded: orNull(real),
    of_whole: orNull(real),
    work: text(),
    units_done: text(),
  },
  progress_stale: {
    enrolment_id: integer(),
    revision: integer(),
  },
} as const satisfies TableColumns;
