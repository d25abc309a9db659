/** Tables of learners. */
import type { Channel } from '@/core/contact/recipient';
import type { EnrolmentStatus } from '@/core/people/enrolment';
import { integer, orNull, text, type TableColumns } from '../column';

export const PEOPLE_TABLES = {
  enrolment: {
    id: integer(),
    learner_id: integer(),
    course_id: integer(),
    group_id: orNull(integer()),
    status: text<EnrolmentStatus | 'merged'>(),
    enrolled_day: integer(),
    ended_day: orNull(integer()),
    seen_run: orNull(integer()),
    provisional: orNull(integer()),
  },
  learner: {
    id: integer(),
    external_id: text(),
    given_name: text(),
    family_name: text(),
    email: orNull(text()),
    phone: orNull(text()),
    organisation_id: orNull(integer()),
    preferred_channel: orNull(text<Channel>()),
    timezone: orNull(text()),
    merged_into: orNull(integer()),
    provisional: orNull(integer()),
    sort_key: text(),
    find_key: text(),
  },
  caseload: {
    id: integer(),
    name: text(),
    owner_id: orNull(integer()),
    rule: orNull(text()),
    created_at: integer(),
    changed_at: integer(),
  },
  caseload_learner: {
    caseload_id: integer(),
    learner_id: integer(),
    is_out: integer(),
  },
  caseload_share: {
    caseload_id: integer(),
    staff_id: integer(),
  },
  learner_contact: {
    id: integer(),
    learner_id: integer(),
    name: text(),
    relation: text(),
    email: orNull(text()),
    phone: orNull(text()),
    may_receive: integer(),
    allowed_at: orNull(integer()),
    allowed_words: text(),
  },
  merge: {
    id: integer(),
    kept_id: integer(),
    gone_id: integer(),
    staff_id: orNull(integer()),
    at: integer(),
    undone_at: orNull(integer()),
    record: text(),
  },
  merge_row: {
    merge_id: integer(),
    table_name: text(),
    row_id: integer(),
  },
  organisation: {
    id: integer(),
    name: text(),
  },
} as const satisfies TableColumns;
