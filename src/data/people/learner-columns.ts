/** What a learner's column in a list is in SQL: what lists are sorted and cut by. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { personColumns } from '../person';
import { seenEnrolments, type View } from '../view';

/** Figures that are joined only where a sort or a filter needs them. */
export type Joined = 'access' | 'drift' | 'organisation';

interface ColumnSql {
  sql: string | Knex.QueryBuilder;
  needs?: Joined;
}

/** Which of somebody's enrolments count. */
type Status = 'active' | 'all' | undefined;

type ColumnMaker = (db: Db, view: View, status: Status) => ColumnSql;

/** A learner's enrolments in view, for a query with the learner in it. */
function own(db: Db, view: View, status: Status): Knex.QueryBuilder {
  return seenEnrolments(db, view, status).whereRaw('enrolment.learner_id = learner.id');
}

/** How many pieces a learner owes in the courses in view, from the dates that are kept; NULL of a past day. */
export function owedPieces(db: Db, view: View, status: Status): Knex.QueryBuilder {
  if (view.asOf !== null) return db.select(db.raw('NULL'));
  return own(db, view, status)
    .join('standing', 'standing.enrolment_id', 'enrolment.id')
    .joinRaw(', json_each(standing.open_dues) AS piece')
    .where('enrolment.status', 'active')
    .whereRaw('piece.value < ?', [view.now])
    .select(db.raw('count(*)'));
}

/** The first day of any enrolment in view. */
export const ENROLLED_DAY = 'min(enrolment.enrolled_day)';

export const LEARNER_COLUMNS = {
  name: (_db, { viewer }) => {
    return { sql: personColumns(viewer).sort };
  },
  learner_id: (_db, { viewer }) => ({ sql: personColumns(viewer).id }),
  email: (_db, { viewer }) => ({ sql: `${personColumns(viewer).email} COLLATE NOCASE` }),
  phone: (_db, { viewer }) => ({ sql: personColumns(viewer).phone }),
  organisation: () => ({ sql: 'fold_text(organisation.name)', needs: 'organisation' }),
  /** Codes of the courses in which the learner is in view: what the list shows, and no others. */
  courses: (db, view, status) => {
    const codes = own(db, view, status)
      .join('course', 'course.id', 'enrolment.course_id')
      .orderBy('course.code')
      .distinct('course.code');
    return { sql: db.from(codes.as('own_codes')).select(db.raw("group_concat(code, ' ')")) };
  },
  enrolled: (db, view, status) => ({ sql: own(db, view, status).select(db.raw(ENROLLED_DAY)) }),
  last_access: () => ({ sql: 'access.last_at', needs: 'access' }),
  /** Days quiet run against last access: more days is an earlier instant. */
  days_quiet: () => ({ sql: 'access.last_at', needs: 'access' }),
  minutes_online: () => ({ sql: 'ifnull(access.ms, 0)', needs: 'access' }),
  /** Pieces owed in the courses in view: what is past its date and not handed in. Not known of a past day. */
  owed: (db, view, status) => ({ sql: owedPieces(db, view, status) }),
  drift: () => ({ sql: 'drift.score', needs: 'drift' }),
  band: () => ({ sql: 'drift.band', needs: 'drift' }),
  /** The last contact attempt by the view's now. */
  last_contact: (db, { now }) => ({
    sql: db('contact_attempt').whereRaw('learner_id = learner.id').where('at', '<=', now).max('at'),
  }),
} as const satisfies Record<string, ColumnMaker>;

export type LearnerColumn = keyof typeof LEARNER_COLUMNS;

export function columnSql(db: Db, view: View, column: LearnerColumn, status: Status): ColumnSql {
  return (LEARNER_COLUMNS[column] as ColumnMaker)(db, view, status);
}

/** A condition on a column: `before` and `under` are strict, `none` is without a value. */
export interface Condition {
  column: LearnerColumn;
  is: 'before' | 'before or none' | 'none' | 'the same as' | 'at least';
  /** What it is compared with; nothing for `none`. */
  value?: number | string;
}

/** A condition in SQL. */
export function holds(db: Db, view: View, { column, is, value }: Condition, status: Status) {
  const { sql } = columnSql(db, view, column, status);
  const it = typeof sql === 'string' ? db.raw(sql) : sql;
  return (query: Knex.QueryBuilder) => {
    if (is === 'none') query.whereRaw('? IS NULL', [it]);
    else if (is === 'before') query.whereRaw('? < ?', [it, value!]);
    else if (is === 'at least') query.whereRaw('? >= ?', [it, value!]);
    else if (is === 'the same as') query.whereRaw('? = ?', [it, value!]);
    else query.where((either) => either.whereRaw('? IS NULL', [it]).orWhereRaw('? < ?', [it, value!]));
  };
}
