/** What is read to tell whether being in touch works: contacts, who was there when, and where people stood. */
import { prepared, withRaw, type Db } from '../db';
import { announcements } from './announcements';
import { staffName } from '../person';
import { courseRowInScope, wordsInScope, type Viewer } from '../scope';
import { seenEnrolments, type DriftView } from '../view';

/** A contact with a learner: a call that reached or left word, a meeting, or a message that was sent to them. */
export interface MadeContact {
  id: number;
  kind: 'email' | 'sms' | 'call' | 'meeting';
  learnerId: number;
  at: number;
  /** Without one: a message written freely, a call, a meeting. */
  template: string | null;
  writer: string;
  subject: string;
  /** The answer to it, or to nothing else, in the days after; a call that somebody took was answered at once. */
  answeredAt: number | null;
}

/**
 * Contacts between two instants with learners in scope, oldest first. A partner's contact has their own alone. An announcement
 * is about nobody.
 */
export async function contactsMade(
  db: Db,
  viewer: Viewer,
  { from, to }: { from: number; to: number },
): Promise<MadeContact[]> {
  const answer = (after: string, of: string) =>
    `(SELECT min(r.received_at) FROM learner_answer r WHERE r.learner_id = c.learner_id AND r.received_at > ${after} AND ${of})`;
  const messages = db('message as c')
    .leftJoin('template', 'template.id', 'c.template_id')
    .where('c.receiver', 'learner')
    .whereIn('c.state', ['sent', 'unsure'])
    .whereNotIn('c.draft_id', announcements(db))
    .whereRaw('ifnull(c.sent_at, c.created_at) >= ? AND ifnull(c.sent_at, c.created_at) < ?', [from, to])
    .where(wordsInScope(viewer, 'c.staff_id'))
    .select(
      'c.id',
      'c.channel as kind',
      'c.learner_id',
      db.raw('ifnull(c.sent_at, c.created_at) AS at'),
      'template.name as template',
      'c.staff_id',
      'c.subject',
      db.raw(`${answer('c.created_at', '(r.message_id = c.id OR r.message_id IS NULL)')} AS answered_at`),
    );
  const calls = db('call as c')
    .whereIn('c.outcome', ['spoke', 'left_message', 'met'])
    .where('c.at', '>=', from)
    .where('c.at', '<', to)
    .where(wordsInScope(viewer, 'c.staff_id'))
    .select(
      'c.id',
      db.raw("CASE c.outcome WHEN 'met' THEN 'meeting' ELSE 'call' END AS kind"),
      'c.learner_id',
      'c.at',
      db.raw('NULL AS template'),
      'c.staff_id',
      db.raw("'' AS subject"),
      db.raw(
        `CASE c.outcome WHEN 'left_message' THEN ${answer('c.at', 'r.message_id IS NULL')} ELSE c.at END AS answered_at`,
      ),
    );
  return db
    .from(messages.unionAll([calls]).as('m'))
    .join('staff', 'staff.id', 'm.staff_id')
    .orderBy(['m.at', 'm.kind', 'm.id'])
    .select(
      'm.id',
      'm.kind',
      'm.learner_id as learnerId',
      'm.at',
      'm.template',
      db.raw(`${staffName(viewer)} AS writer`),
      'm.subject',
      'm.answered_at as answeredAt',
    );
}

/** An enrolment in view, over all of its time. */
export interface EnrolledTime {
  id: number;
  learnerId: number;
  courseId: number;
  enrolledDay: number;
  endedDay: number | null;
}

export async function enrolmentsInTime(db: Db, view: DriftView): Promise<EnrolledTime[]> {
  return seenEnrolments(db, view, 'all').select(
    'enrolment.id',
    'enrolment.learner_id as learnerId',
    'enrolment.course_id as courseId',
    'enrolment.enrolled_day as enrolledDay',
    'enrolment.ended_day as endedDay',
  );
}

/** Calls back for each day on which somebody was in a course: learner, course, day, first and last instant. */
export async function eachDayThere(
  db: Db,
  viewer: Viewer,
  take: (learner: number, course: number, day: number, first: number, last: number) => void,
): Promise<void> {
  const { sql, bindings } = db('learner_day as d')
    .where('d.events', '>', 0)
    .whereNotNull('d.first')
    .where(courseRowInScope(db, viewer, 'd'))
    .select('d.learner_id', 'd.course_id', 'd.day', 'd.first', 'd.last')
    .toSQL()
    .toNative();
  await withRaw(db, (raw) => {
    const rows = prepared(raw, sql)
      .raw()
      .iterate(...bindings) as IterableIterator<[number, number, number, number, number]>;
    for (const [learner, course, day, first, last] of rows) take(learner, course, day, first, last);
  });
}

/** Other signs of being there, between two instants: hand-ins, and sessions attended. */
export async function otherSigns(
  db: Db,
  viewer: Viewer,
  { from, to }: { from: number; to: number },
): Promise<{ learnerId: number; at: number }[]> {
  const [handIns, attended] = await Promise.all([
    db('attempt as a')
      .join('item', 'item.id', 'a.item_id')
      .whereNull('a.dismissed_at')
      .whereBetween('a.submitted_at', [from, to])
      .where((any) => {
        if (viewer.all) return;
        any.whereExists(
          db('enrolment as e')
            .whereRaw('e.learner_id = a.learner_id AND e.course_id = item.course_id')
            .where(courseRowInScope(db, viewer, 'e')),
        );
      })
      .select('a.learner_id as learnerId', 'a.submitted_at as at'),
    db('session_outcome as o')
      .where('o.credit', '>', 0)
      .whereBetween('o.at', [from, to])
      .where(courseRowInScope(db, viewer, 'o'))
      .select('o.learner_id as learnerId', 'o.at'),
  ]);
  return [...handIns, ...attended];
}

/** Calls back for each reading of drift of some days: day, enrolment, score. */
export async function eachReading(
  db: Db,
  days: readonly number[],
  take: (day: number, enrolment: number, score: number) => void,
): Promise<void> {
  await withRaw(db, (raw) => {
    const rows = prepared(
      raw,
      `SELECT r.day, r.enrolment_id, r.score FROM json_each(?) AS d CROSS JOIN drift_reading r INDEXED BY drift_reading_day
         ON r.day = d.value WHERE r.score IS NOT NULL`,
    )
      .raw()
      .iterate(JSON.stringify(days)) as IterableIterator<[number, number, number]>;
    for (const [day, enrolment, score] of rows) take(day, enrolment, score);
  });
}

/** The days on which some enrolments came out of the first band, or began above it: enrolment and day, in order. */
export async function crossingsOf(
  db: Db,
  enrolments: readonly number[],
): Promise<{ enrolmentId: number; day: number }[]> {
  return db
    .from(
      db.raw(
        `(SELECT r.enrolment_id, r.day, r.band, lag(r.band) OVER (PARTITION BY r.enrolment_id ORDER BY r.day) AS before
          FROM json_each(?) AS e CROSS JOIN drift_reading r ON r.enrolment_id = e.value WHERE r.band IS NOT NULL) AS each`,
        [JSON.stringify(enrolments)],
      ),
    )
    .where('band', '>', 0)
    .whereRaw('ifnull(before, 0) = 0')
    .orderBy(['enrolment_id', 'day'])
    .select('enrolment_id as enrolmentId', 'day');
}
