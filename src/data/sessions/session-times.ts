/** When sessions are, of the timetable and of the outline. */
import type { Db } from '../db';
import { enrolmentInSegment, enrolmentInScope, sessionInSegment, sessionInScope, type ViewScope } from '../scope';

/** A session's times, as periods and the class list go by them. */
export interface SessionTimes {
  /** Null for one that only the outline has. */
  id: number | null;
  session_id: string | null;
  course: string;
  title: string;
  from: number;
  to: number | null;
}

/**
 * Sessions in view that begin in a period and are held, the first to begin first: those of the timetable, and those to
 * which only the outline gives a time.
 */
export async function sessionTimes(
  db: Db,
  { viewer, segment }: ViewScope,
  from: number,
  to: number,
): Promise<SessionTimes[]> {
  const planned = db('session')
    .join('course', 'course.id', 'session.course_id')
    .where('session.starts_at', '>=', from)
    .where('session.starts_at', '<', to)
    .where('session.cancelled', 0)
    .whereNull('session.removed_at')
    .where(sessionInScope(db, viewer))
    .where(sessionInSegment(db, segment))
    .select(
      'session.id',
      'session.external_id as session_id',
      'course.code as course',
      'session.title',
      'session.starts_at as from',
      'session.ends_at as to',
    );
  const outlined = db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('item.kind', 'session')
    .whereNull('item.removed_at')
    .where('item.opens_at', '>=', from)
    .where('item.opens_at', '<', to)
    .whereNotExists(db('session as of').whereRaw('of.item_id = item.id AND of.removed_at IS NULL'))
    .whereIn(
      'item.course_id',
      db('enrolment').where(enrolmentInScope(viewer)).where(enrolmentInSegment(segment)).distinct('course_id'),
    )
    .select(
      db.raw('NULL AS id'),
      db.raw('NULL AS session_id'),
      'course.code as course',
      'item.title',
      'item.opens_at as from',
      'item.due_at as to',
    );
  return db
    .from(planned.unionAll(outlined as never).as('times'))
    .orderBy('from')
    .select('*') as never;
}
