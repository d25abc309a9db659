/** Tables of drift. */
import type { EvidenceKind } from '@/core/drift/evidence';
import type { Band } from '@/core/drift/bands';
import { integer, orNull, real, text, type TableColumns } from '../column';

export const DRIFT_TABLES = {
  course_evidence: {
    course_id: integer(),
    kind: text<EvidenceKind>(),
    day: integer(),
  },
  drift_reading: {
    enrolment_id: integer(),
    day: integer(),
    score: orNull(real),
    band: orNull(integer<Band>()),
    reasons: text(),
    days_away: orNull(integer()),
    has_come: orNull(integer()),
  },
  drift_setting: {
    id: integer(),
    course_id: orNull(integer()),
    from_day: integer(),
    at: integer(),
    staff_id: orNull(integer()),
    words: text(),
    setting: orNull(text()),
  },
  drift_stale: {
    enrolment_id: integer(),
    from_day: integer(),
    revision: integer(),
    recent: integer(),
  },
  set_aside: {
    id: integer(),
    staff_id: integer(),
    learner_id: integer(),
    reason: text(),
    until_day: orNull(integer()),
    created_at: integer(),
    ended_at: orNull(integer()),
    back_after: orNull(integer()),
  },
} as const satisfies TableColumns;
