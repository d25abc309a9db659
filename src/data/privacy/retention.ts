/** Letting go of what is no longer kept: found by the end of courses, and taken out a part at a time. */
import { endedBy, type KeptDays, type KindByCourse } from '@/core/privacy/retention';
import { prepared, type Db, type RawConnection } from '../db';
import { TREATMENT } from './erase';

/** Rows that go at once: nobody waits longer than one such part takes. */
const PART = 5000;
/** Learners whose texts go at once. */
const PEOPLE = 200;

/** The setting before which looks may go: the table itself refuses any other. */
const LOOKS_FROM = 'looks_kept_from';

/** SQL of the courses of which something is no longer kept. */
export const goneOf = (kind: KindByCourse) => `SELECT course_id FROM gone WHERE kind = '${kind}'`;

/** SQL of the last day on which a course's log is closed, or of the instant at which that day ends; long ago where it is open. */
export const closedTo = (what: 'to_day' | 'to_at', course: string) =>
  `ifnull((SELECT ${what} FROM log_closed WHERE log_closed.course_id = ${course}), -8.64e15)`;

/** Courses whose log is closed, with the instant from which on it is open: nothing is added before. */
export function closedLogs(raw: RawConnection): Map<number, number> {
  return new Map(prepared(raw, 'SELECT course_id, to_at FROM log_closed').raw().all() as [number, number][]);
}

/** Are days of any of these courses closed, or about to be? */
export function anyClosed(raw: RawConnection, courseIds: readonly number[]): boolean {
  const closed = prepared(
    raw,
    'SELECT 1 FROM log_closed WHERE course_id = ? UNION ALL SELECT 1 FROM archive WHERE course_id = ?',
  );
  return courseIds.some((id) => closed.get(id, id) !== undefined);
}

export interface EndedCourse {
  id: number;
  code: string;
  title: string;
  ends_day: number;
  /** Kinds that are gone already. */
  gone: KindByCourse[];
}

/** Courses that have an end, the first to end first, with what is gone of each. */
export async function coursesWithEnd(db: Db): Promise<EndedCourse[]> {
  const rows: (Omit<EndedCourse, 'gone'> & { gone: string })[] = await db('course')
    .whereNotNull('ends_day')
    .orderBy(['ends_day', 'code'])
    .select(
      'id',
      'code',
      'title',
      'ends_day',
      db.raw(`(SELECT json_group_array(kind) FROM gone WHERE course_id = course.id AND done_at IS NOT NULL
         AND to_day >= course.ends_day) AS gone`),
    );
  return rows.map((row) => ({ ...row, gone: JSON.parse(row.gone) }));
}

/** How many rows of a course are kept of each kind: from the counts kept beside the log where there are any. */
export async function rowsKept(
  db: Db,
  courseIds: readonly number[],
): Promise<Map<number, Record<KindByCourse, number>>> {
  const of = (table: string, on: string) =>
    `(SELECT count(*) FROM enrolment e CROSS JOIN ${table} t ON ${on} WHERE e.course_id = c.value AND e.status <> 'merged')`;
  const rows: { id: number; events: number; visits: number; readings: number }[] = await db
    .from(db.raw('json_each(?) AS c', [JSON.stringify(courseIds)]))
    .select(
      'c.value as id',
      db.raw('(SELECT total(events) FROM course_day WHERE course_id = c.value) AS events'),
      db.raw(`${of('visit_course', 't.learner_id = e.learner_id AND t.course_id = e.course_id')} AS visits`),
      db.raw(`${of('drift_reading', 't.enrolment_id = e.id')} AS readings`),
    );
  return new Map(rows.map(({ id, ...kept }) => [id, kept]));
}

/** Titles of those of some courses whose events are no longer kept. */
export async function coursesWithoutLog(db: Db, courseIds: readonly number[]): Promise<string[]> {
  return db('course')
    .whereIn('id', db('gone').where('kind', 'events').select('course_id'))
    .whereIn('id', courseIds)
    .orderBy('code')
    .pluck('title');
}

/** Learners all of whose courses have an end, the last of them by a day; by their numbers. */
export async function learnersEnded(db: Db, day: number | null): Promise<number[]> {
  if (day === null) return [];
  return db('enrolment')
    .join('course', 'course.id', 'enrolment.course_id')
    .where('enrolment.status', '<>', 'merged')
    .groupBy('enrolment.learner_id')
    .havingRaw('count(*) = count(course.ends_day) AND max(course.ends_day) <= ?', [day])
    .orderBy('enrolment.learner_id')
    .pluck('enrolment.learner_id');
}

/** The last end of a course of each learner all of whose courses have one, and how many learners have it, by day. */
export async function endsOfLearners(db: Db): Promise<{ day: number; learners: string }[]> {
  const last = db('enrolment')
    .join('course', 'course.id', 'enrolment.course_id')
    .where('enrolment.status', '<>', 'merged')
    .groupBy('enrolment.learner_id')
    .havingRaw('count(*) = count(course.ends_day)')
    .select('enrolment.learner_id', db.raw('max(course.ends_day) AS day'))
    .as('last');
  return db.from(last).groupBy('day').orderBy('day').select('day', db.raw('json_group_array(learner_id) AS learners'));
}

/** Tables whose texts go with messages and with notes: what becomes of each is declared where people are erased. */
const TEXTS = {
  messages: ['message', 'reply'],
  notes: ['note', 'call', 'follow_up', 'flare', 'set_aside'],
} as const;

/** Columns of a table that hold texts, and how they are emptied. */
function emptying(table: string): { left: string; sets: string } {
  const treatment = TREATMENT[table];
  if (typeof treatment !== 'object') throw new Error(`${table} is not emptied`);
  const texts = Object.entries(treatment).filter(([, value]) => value === "''");
  return {
    left: texts.map(([column]) => `${column} <> ''`).join(' OR '),
    sets: Object.entries(treatment)
      .map(([column, value]) => `${column} = ${value}`)
      .join(', '),
  };
}

/** How many messages or notes of some learners hold anything yet. */
export async function textsKept(db: Db, kind: keyof typeof TEXTS, learnerIds: string): Promise<number> {
  const counts = TEXTS[kind].map(
    (table) =>
      `(SELECT count(*) FROM ${table} WHERE learner_id IN (SELECT value FROM ids) AND (${emptying(table).left}))`,
  );
  const [row] = await db
    .with('ids', db.raw('SELECT value FROM json_each(?)', [learnerIds]))
    .select(db.raw(`${counts.join(' + ')} AS found`));
  return row.found;
}

/** Empties the texts of some learners, as many as fit; returns those that are left. */
export function emptyTexts(
  raw: RawConnection,
  kind: keyof typeof TEXTS,
  learnerIds: readonly number[],
  now: number,
): { left: readonly number[]; emptied: number } {
  const these = JSON.stringify(learnerIds.slice(0, PEOPLE));
  let emptied = 0;
  for (const table of TEXTS[kind]) {
    const { left, sets } = emptying(table);
    emptied += raw
      .prepare(`UPDATE ${table} SET ${sets} WHERE learner_id IN (SELECT value FROM json_each(:these)) AND (${left})`)
      .run({ these, ...(sets.includes(':now') && { now }) }).changes;
  }
  return { left: learnerIds.slice(PEOPLE), emptied };
}

/** SQL of looks that go: older than the days they are kept, of learners who have none left to keep them for, or of nobody. */
const OLD_LOOKS = `at < :before AND (learner_id IS NULL OR learner_id IN (SELECT value FROM json_each(:ended)))`;

export interface OldLooks {
  /** Instant before which they lie. */
  before: number;
  /** Learners whose courses have ended so long ago. */
  ended: readonly number[];
}

export async function countLooks(db: Db, { before, ended }: OldLooks): Promise<number> {
  const [row] = await db.raw(`SELECT count(*) AS found FROM look WHERE ${OLD_LOOKS}`, {
    before,
    ended: JSON.stringify(ended),
  });
  return row.found;
}

/** Drops a part of old looks; returns how many. */
export function dropLooks(raw: RawConnection, { before, ended }: OldLooks): number {
  raw
    .prepare(
      'INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT DO UPDATE SET value = max(CAST(value AS INTEGER), excluded.value)',
    )
    .run(LOOKS_FROM, before);
  return raw
    .prepare(`DELETE FROM look WHERE id IN (SELECT id FROM look WHERE ${OLD_LOOKS} LIMIT ${PART})`)
    .run({ before, ended: JSON.stringify(ended) }).changes;
}

/** Notes that a kind of a course is kept no more, from before the first of it goes. */
export function beginGone(
  raw: RawConnection,
  {
    courseId,
    kind,
    now,
    today,
    until,
  }: { courseId: number; kind: KindByCourse; now: number; today: number; until: number },
): void {
  raw
    .prepare(
      `INSERT INTO gone (course_id, kind, began_at, to_day, to_at) VALUES (?, ?, ?, ?, ?)
       ON CONFLICT DO UPDATE SET began_at = excluded.began_at, done_at = NULL, to_day = excluded.to_day, to_at = excluded.to_at`,
    )
    .run(courseId, kind, now, today, until);
}

/** Notes that all of it has gone. */
export function endGone(raw: RawConnection, courseId: number, kind: KindByCourse, now: number): void {
  if (kind === 'events') raw.prepare('DELETE FROM course_day WHERE course_id = ?').run(courseId);
  raw.prepare('UPDATE gone SET done_at = ? WHERE course_id = ? AND kind = ?').run(now, courseId, kind);
}

/** What of a kind is to go of which courses, begun or not. */
export async function dueOfCourses(
  db: Db,
  days: KeptDays,
  today: number,
): Promise<{ course_id: number; code: string; kind: KindByCourse }[]> {
  const due = await Promise.all(
    (['events', 'visits', 'readings'] as const).map(async (kind) => {
      const day = endedBy(today, days[kind]);
      if (day === null) return [];
      const rows: { course_id: number; code: string }[] = await db('course')
        .where('ends_day', '<=', day)
        // Of a course that has been held again since, there is more.
        .whereNotExists(
          db('gone')
            .where({ kind })
            .whereNotNull('done_at')
            .whereRaw('course_id = course.id AND to_day >= course.ends_day'),
        )
        .select('id as course_id', 'code');
      return rows.map((row) => ({ ...row, kind }));
    }),
  );
  return due.flat();
}

/** Above this share of the log, events go in the order in which they lie: each page of it is written once. */
const MANY = 0.05;

/** Where taking events out of the log has got to. */
export interface Dropping {
  courseIds: readonly number[];
  /** By their place in the log, after this number; null where they are found course by course. */
  after: number | null;
}

/** Begins to take the events of some courses out of the log, by the way that writes the fewest pages. */
export function beginDropping(raw: RawConnection, courseIds: readonly number[]): Dropping {
  const [own, all] = raw
    .prepare(
      `SELECT total(events) FILTER (WHERE course_id IN (SELECT value FROM json_each(?))), total(events) FROM course_day`,
    )
    .raw()
    .get(JSON.stringify(courseIds)) as [number, number];
  return { courseIds, after: own > MANY * all ? 0 : null };
}

/** The next events to go; empty at the end. Only reads. */
export function eventsToDrop(raw: RawConnection, { courseIds, after }: Dropping): number[] {
  const of = JSON.stringify(courseIds);
  if (after === null)
    return prepared(
      raw,
      `SELECT event.id FROM json_each(?) AS c CROSS JOIN event INDEXED BY event_course ON event.course_id = c.value LIMIT ${PART}`,
    )
      .pluck()
      .all(of) as number[];
  return prepared(
    raw,
    `SELECT id FROM event NOT INDEXED WHERE id > ? AND course_id IN (SELECT value FROM json_each(?)) ORDER BY id LIMIT ${PART}`,
  )
    .pluck()
    .all(after, of) as number[];
}

/**
 * Takes events out of the log, with what is counted of their actions. Statements that brought them keep no more than their id.
 */
export function dropEvents(raw: RawConnection, ids: readonly number[]): void {
  const these = JSON.stringify(ids);
  prepared(
    raw,
    `UPDATE action SET events = events - gone.n FROM (SELECT action_id, count(*) AS n FROM event
       WHERE id IN (SELECT value FROM json_each(?)) GROUP BY 1) AS gone WHERE action.id = gone.action_id`,
  ).run(these);
  prepared(
    raw,
    `UPDATE statement SET event_id = NULL, body = json_object('id', uuid) WHERE id IN (
       SELECT s.id FROM json_each(?) AS one CROSS JOIN event ON event.id = one.value
       CROSS JOIN statement s ON s.source_id = event.source_id AND s.uuid = event.external_id)`,
  ).run(these);
  prepared(raw, 'DELETE FROM event WHERE id IN (SELECT value FROM json_each(?))').run(these);
}

/** Enrolments whose visits or readings go at once. */
const ENROLMENTS = 100;

/** Takes a part of a course's visits or readings out: those of some enrolments after one. Returns the last, null at the end. */
export function dropOfEnrolments(
  raw: RawConnection,
  kind: 'visits' | 'readings',
  courseId: number,
  after: number,
): { last: number | null; dropped: number } {
  const rows = prepared(
    raw,
    'SELECT id, learner_id FROM enrolment WHERE course_id = ? AND id > ? ORDER BY id LIMIT ?',
  ).all(courseId, after, ENROLMENTS) as { id: number; learner_id: number }[];
  const drop = prepared(
    raw,
    kind === 'visits'
      ? 'DELETE FROM visit_course WHERE learner_id = ? AND course_id = ?'
      : 'DELETE FROM drift_reading WHERE enrolment_id = ?',
  );
  let dropped = 0;
  for (const { id, learner_id } of rows)
    dropped += (kind === 'visits' ? drop.run(learner_id, courseId) : drop.run(id)).changes;
  return { last: rows.at(-1)?.id ?? null, dropped };
}
