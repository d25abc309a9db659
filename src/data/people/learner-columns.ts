/** What a learner's column in a list is in SQL: what lists are sorted and cut by. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { LEAVE_MARGIN } from '@/core/drift/bands';
import { settingOn } from '@/core/drift/setting';
import { combinedBand, combinedScore, readingsByDay } from '../drift/drift';
import { personColumns } from '../person';
import { accessOf, seenEnrolments, type DriftView } from '../view';

/** What it is, for a query with `learner` in it. */
type ColumnSql = string | Knex.QueryBuilder;

/** Which of somebody's enrolments count. */
type Status = 'active' | 'all' | undefined;

type ColumnMaker = (db: Db, view: DriftView, status: Status) => ColumnSql;

/** A learner's enrolments in view, for a query with the learner in it. */
function own(db: Db, view: DriftView, status: Status): Knex.QueryBuilder {
  return seenEnrolments(db, view, status).whereRaw('enrolment.learner_id = learner.id');
}

/** A learner's drift over the courses in view, or its band. */
export function driftOf(db: Db, view: DriftView, status: Status, what: 'score' | 'band'): Knex.QueryBuilder {
  const { edges } = settingOn(view.settings, view.readingDay);
  return (
    own(db, view, status)
      // In this order: else everybody's readings of the day would be gone through for each learner.
      .joinRaw('CROSS JOIN ? ON r.enrolment_id = enrolment.id AND r.day = ?', [readingsByDay(db, 'r'), view.readingDay])
      .select(db.raw(what === 'score' ? combinedScore('r') : combinedBand(edges, LEAVE_MARGIN, 'r')))
  );
}

/** How many pieces a learner owes in the courses in view, from the dates that are kept; NULL of a past day. */
export function overdueItems(db: Db, view: DriftView, status: Status): Knex.QueryBuilder {
  if (view.asOf !== null) return db.select(db.raw('NULL'));
  return own(db, view, status)
    .join('enrolment_progress', 'enrolment_progress.enrolment_id', 'enrolment.id')
    .joinRaw(', json_each(enrolment_progress.open_dues) AS item')
    .where('enrolment.status', 'active')
    .whereRaw('item.value < ?', [view.now])
    .select(db.raw('count(*)'));
}

/** The first day of any enrolment in view. */
export const ENROLLED_DAY = 'min(enrolment.enrolled_day)';

export const LEARNER_COLUMNS = {
  name: (_db, { viewer }) => personColumns(viewer).sort,
  learner_id: (_db, { viewer }) => personColumns(viewer).id,
  email: (_db, { viewer }) => `${personColumns(viewer).email} COLLATE NOCASE`,
  phone: (_db, { viewer }) => personColumns(viewer).phone,
  organisation: () => '(SELECT fold_text(name) FROM organisation WHERE organisation.id = learner.organisation_id)',
  /** Codes of the courses in which the learner is in view: what the list shows, and no others. */
  courses: (db, view, status) => {
    const codes = own(db, view, status)
      .join('course', 'course.id', 'enrolment.course_id')
      .orderBy('course.code')
      .distinct('course.code');
    return db.from(codes.as('own_codes')).select(db.raw("group_concat(code, ' ')"));
  },
  enrolled: (db, view, status) => own(db, view, status).select(db.raw(ENROLLED_DAY)),
  last_access: (db, view) => accessOf(db, view, 'last_at'),
  /** Days quiet run against last access: more days is an earlier instant. */
  days_quiet: (db, view) => accessOf(db, view, 'last_at'),
  minutes_online: (db, view) => accessOf(db, view, 'ms'),
  /** Pieces owed in the courses in view: what is past its date and not handed in. Not known of a past day. */
  overdue: (db, view, status) => overdueItems(db, view, status),
  drift: (db, view, status) => driftOf(db, view, status, 'score'),
  band: (db, view, status) => driftOf(db, view, status, 'band'),
  /** The last contact attempt by the view's now. */
  last_contact: (db, { now }) =>
    db('contact_attempt').whereRaw('learner_id = learner.id').where('at', '<=', now).max('at'),
} as const satisfies Record<string, ColumnMaker>;

export type LearnerColumn = keyof typeof LEARNER_COLUMNS;

export function columnSql(db: Db, view: DriftView, column: LearnerColumn, status: Status): ColumnSql {
  return (LEARNER_COLUMNS[column] as ColumnMaker)(db, view, status);
}

/** A condition on a column: `before` is strict, `none` is without a value. */
export interface Condition {
  column: LearnerColumn;
  is: 'before' | 'before or none' | 'none' | 'the same as' | 'at least';
  /** What it is compared with; nothing for `none`. */
  value?: number | string;
}

/** A condition in SQL. */
export function holds(db: Db, view: DriftView, { column, is, value }: Condition, status: Status) {
  const sql = columnSql(db, view, column, status);
  const it = typeof sql === 'string' ? db.raw(sql) : sql;
  return (query: Knex.QueryBuilder) => {
    if (is === 'none') query.whereRaw('? IS NULL', [it]);
    else if (is === 'before') query.whereRaw('? < ?', [it, value!]);
    else if (is === 'at least') query.whereRaw('? >= ?', [it, value!]);
    else if (is === 'the same as') query.whereRaw('? = ?', [it, value!]);
    else query.where((either) => either.whereRaw('? IS NULL', [it]).orWhereRaw('? < ?', [it, value!]));
  };
}
