/** What the courses' page says of each course, of the learners in view. */
import type { Db } from '../db';
import { readingsByDay } from '../drift/drift';
import { enrolmentInSegment, enrolmentInScope, sessionInSegment, sessionInScope } from '../scope';
import { seenEnrolments, type DriftView } from '../view';
import { toGradeInView } from '../work/to-grade';

export interface CourseCounts {
  id: number;
  code: string;
  title: string;
  /** The import that made it, where no outline has told of it; null else. */
  provisional: number | null;
  starts_day: number | null;
  ends_day: number | null;
  pass_mark: number | null;
  enrolled: number;
  /** With an event since an instant, and without any. */
  active: number;
  never: number;
  slipping: number;
  adrift: number;
  on_course: number;
}

/** Courses in view with who is in them, who was there since an instant, and their bands. */
export async function courseCounts(db: Db, view: DriftView, since: number): Promise<CourseCounts[]> {
  return seenEnrolments(db, view)
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('learner_course as lc', (on) =>
      on.on('lc.learner_id', 'enrolment.learner_id').andOn('lc.course_id', 'enrolment.course_id'),
    )
    .leftJoin(readingsByDay(db, 'r'), (on) =>
      on.on('r.enrolment_id', 'enrolment.id').andOnVal('r.day', view.readingDay),
    )
    .groupBy('course.id')
    .orderBy('course.title')
    .select(
      'course.id',
      'course.code',
      'course.title',
      'course.provisional',
      'course.starts_day',
      'course.ends_day',
      'course.pass_mark',
      db.raw('count(*) AS enrolled'),
      db.raw('total(lc.last_at >= ?) AS active', [since]),
      db.raw('total(lc.last_at IS NULL) AS never'),
      db.raw('total(r.band = 1) AS slipping'),
      db.raw('total(r.band = 2) AS adrift'),
      db.raw('total(r.band = 0) AS on_course'),
    );
}

/** How many pieces wait in each course, and the oldest hand-in. */
export async function toGradeByCourse(
  db: Db,
  view: DriftView,
): Promise<Map<number, { count: number; oldest: number }>> {
  const rows: { id: number; count: number; oldest: number }[] = await toGradeInView(db, view)
    .groupBy('enrolment.course_id')
    .select('enrolment.course_id as id', db.raw('count(*) AS count'), db.raw('min(a.submitted_at) AS oldest'));
  return new Map(rows.map(({ id, ...row }) => [id, row]));
}

/** Items of courses in view that are open and that nobody in view has opened, by course. */
export async function unopenedByCourse(
  db: Db,
  view: DriftView,
): Promise<Map<number, { count: number; first: string; item_id: string }>> {
  const { viewer, segment, now } = view;
  const rows: { id: number; count: number; first: string; item_id: string }[] = await db('item')
    .whereIn('item.course_id', seenEnrolments(db, view).distinct('enrolment.course_id'))
    .whereNull('item.removed_at')
    .whereNot('item.kind', 'session')
    .where((open) => open.whereNull('item.opens_at').orWhere('item.opens_at', '<=', now))
    .whereNotExists(
      db('enrolment')
        .join('item_day as d', 'd.learner_id', 'enrolment.learner_id')
        .whereRaw('enrolment.course_id = item.course_id AND d.item_id = item.id AND d.opens > 0')
        .where('enrolment.status', 'active')
        .where(enrolmentInScope(viewer))
        .where(enrolmentInSegment(segment)),
    )
    .groupBy('item.course_id')
    // With min(), SQLite gives the other columns of the row that has it.
    .select(
      'item.course_id as id',
      db.raw('count(*) AS count'),
      'item.title as first',
      'item.external_id as item_id',
      db.raw('min(item.position)'),
    );
  return new Map(rows.map(({ id, ...row }) => [id, row]));
}

export interface LastSession {
  course_id: number;
  session_id: string;
  title: string;
  day: number;
  has_roll: number;
  credit: number;
  counted: number;
}

/** The last session of each course in view that was held and ended, with what its marks come to. */
export async function lastSessions(db: Db, view: DriftView): Promise<Map<number, LastSession>> {
  const { viewer, segment, now } = view;
  const rows: LastSession[] = await db('session as s')
    .where('s.ends_at', '<=', now)
    .whereRaw('s.cancelled = 0 AND s.removed_at IS NULL')
    .where(sessionInScope(db, viewer, 's'))
    .where(sessionInSegment(db, segment, 's'))
    .whereRaw(
      `s.id = (SELECT l.id FROM session l WHERE l.course_id = s.course_id AND l.ends_at <= ? AND l.cancelled = 0
         AND l.removed_at IS NULL ${segment.groupId === undefined ? '' : 'AND ifnull(l.group_id, s.group_id) IS s.group_id'}
         ORDER BY l.starts_at DESC, l.id DESC LIMIT 1)`,
      [now],
    )
    .select(
      's.course_id',
      's.external_id as session_id',
      's.title',
      's.day',
      db.raw('s.roll_at IS NOT NULL AS has_roll'),
      db.raw(
        `(SELECT total(mark.credit) FROM attendance a JOIN mark ON mark.code = a.mark AND mark.counts = 1
          JOIN enrolment ON enrolment.learner_id = a.learner_id AND enrolment.course_id = s.course_id WHERE a.session_id = s.id) AS credit`,
      ),
      db.raw(
        `(SELECT count(*) FROM attendance a JOIN mark ON mark.code = a.mark AND mark.counts = 1
          JOIN enrolment ON enrolment.learner_id = a.learner_id AND enrolment.course_id = s.course_id WHERE a.session_id = s.id) AS counted`,
      ),
    );
  return new Map(rows.map((row) => [row.course_id, row]));
}
