/**
 * What was made before an outline or a roster told of it, made one with what they tell of: courses and items by their titles,
 * people by their address, else by their name within a course. Nothing is counted twice, and nothing is lost.
 */
import { foldWord } from '@/core/imports/foreign/words';
import { nameKey } from '@/core/sessions/match';
import { groupBy } from '@/core/group-by';
import { dayOf } from '@/core/time/zone';
import { removeToldTwice } from '../access/event-writer';
import { touching } from '../access/touched';
import { prepared, rawTransaction, writing, withRaw, type Db, type RawConnection } from '../db';
import { staleCourses } from '../drift/stale';
import { mergeRecords } from '../people/merge';
import { staleCourseWork } from '../work/stale-work';

/** One thing that becomes another: from, to. */
type Pair = readonly [from: number, to: number];

function tablesWith(raw: RawConnection, column: string, without: readonly string[]): string[] {
  const names = raw
    .prepare(
      `SELECT t.name FROM sqlite_master t JOIN pragma_table_info(t.name) c ON c.name = ? WHERE t.type = 'table' ORDER BY t.name`,
    )
    .pluck()
    .all(column) as string[];
  return names.filter((name) => !without.includes(name));
}

/** Tables that are derived from the log, and made anew for everybody who is touched. */
const DERIVED = ['learner_day', 'learner_course', 'visit_course', 'packed_day', 'item_day', 'course_evidence'] as const;

/** Rows of a table go over from one to another; those that the other has already go. */
function move(raw: RawConnection, table: string, column: string, [from, to]: Pair): void {
  prepared(raw, `UPDATE OR IGNORE ${table} SET ${column} = ? WHERE ${column} = ?`).run(to, from);
  prepared(raw, `DELETE FROM ${table} WHERE ${column} = ?`).run(from);
}

/** Items of one course become others of it. */
export function joinItems(raw: RawConnection, courseId: number, pairs: readonly Pair[]): void {
  if (pairs.length === 0) return;
  const which = JSON.stringify(pairs);
  // One look at the log for all of them.
  prepared(
    raw,
    touching(`SELECT learner_id, min(at), max(at) FROM event WHERE learner_id IS NOT NULL AND course_id = @courseId
      AND item_id IN (SELECT value ->> 0 FROM json_each(@which)) GROUP BY learner_id`),
  ).run({ courseId, which });
  prepared(
    raw,
    `UPDATE event SET item_id = (SELECT value ->> 1 FROM json_each(@which) WHERE value ->> 0 = event.item_id)
     WHERE course_id = @courseId AND item_id IN (SELECT value ->> 0 FROM json_each(@which))`,
  ).run({ courseId, which });
  const tables = tablesWith(raw, 'item_id', ['event', ...DERIVED]);
  for (const pair of pairs) {
    for (const table of tables) move(raw, table, 'item_id', pair);
    prepared(raw, 'DELETE FROM item_day WHERE item_id = ?').run(pair[0]);
    prepared(raw, 'DELETE FROM item WHERE id = ?').run(pair[0]);
  }
  staleCourseWork(raw, [courseId]);
}

/** A course becomes another: its items by their titles, its groups by their names, its people, and all that happened in it. */
export function joinCourses(raw: RawConnection, [from, to]: Pair): void {
  prepared(raw, 'UPDATE item SET position = position + 100000 WHERE course_id = ?').run(from);
  prepared(raw, 'UPDATE OR IGNORE item SET course_id = ? WHERE course_id = ?').run(to, from);
  // An id that the other has too is the same item.
  const same = prepared(
    raw,
    `SELECT f.id, t.id FROM item f JOIN item t ON t.course_id = @to AND t.external_id = f.external_id WHERE f.course_id = @from`,
  )
    .raw()
    .all({ from, to }) as [number, number][];
  joinItems(raw, from, same);
  prepared(
    raw,
    touching(
      `SELECT learner_id, min(at), max(at) FROM event WHERE learner_id IS NOT NULL AND course_id = ? GROUP BY learner_id`,
    ),
  ).run(from);
  prepared(raw, 'UPDATE event SET course_id = ? WHERE course_id = ?').run(to, from);
  prepared(
    raw,
    `INSERT INTO course_day (course_id, day, action_id, staff, events) SELECT @to, day, action_id, staff, events
     FROM course_day WHERE course_id = @from ON CONFLICT DO UPDATE SET events = events + excluded.events`,
  ).run({ from, to });
  const groups = prepared(
    raw,
    'SELECT f.id, t.id FROM course_group f JOIN course_group t ON t.course_id = @to AND t.name = f.name WHERE f.course_id = @from',
  )
    .raw()
    .all({ from, to }) as [number, number][];
  for (const table of tablesWith(raw, 'group_id', [])) for (const pair of groups) move(raw, table, 'group_id', pair);
  for (const [group] of groups) prepared(raw, 'DELETE FROM course_group WHERE id = ?').run(group);
  prepared(raw, 'UPDATE OR IGNORE enrolment SET course_id = ? WHERE course_id = ?').run(to, from);
  for (const table of tablesWith(raw, 'enrolment_id', []))
    prepared(raw, `DELETE FROM ${table} WHERE enrolment_id IN (SELECT id FROM enrolment WHERE course_id = ?)`).run(
      from,
    );
  for (const table of DERIVED.filter((name) => name !== 'item_day'))
    prepared(raw, `DELETE FROM ${table} WHERE course_id = ?`).run(from);
  for (const table of tablesWith(raw, 'course_id', ['event', 'item', ...DERIVED]))
    move(raw, table, 'course_id', [from, to]);
  prepared(raw, 'DELETE FROM course WHERE id = ?').run(from);
  staleCourses(raw, new Set([to]));
  staleCourseWork(raw, [to]);
}

interface Named {
  id: number;
  provisional: number | null;
  name: string;
}

/** Pairs of what was made and the one thing that is told of by the same name. */
function pairsByName(rows: readonly Named[], keyOf: (name: string) => string): Pair[] {
  return [...groupBy(rows, (row) => keyOf(row.name)).values()].flatMap((same) => {
    const told = same.filter(({ provisional }) => provisional === null);
    const made = same.filter(({ provisional }) => provisional !== null);
    return told.length === 1 ? made.map(({ id }) => [id, told[0].id] as const) : [];
  });
}

function joinCoursesAndItems(raw: RawConnection): void {
  const courses = raw.prepare('SELECT id, provisional, title AS name FROM course').all() as Named[];
  for (const pair of pairsByName(courses, foldWord)) joinCourses(raw, pair);
  const withMade = raw
    .prepare('SELECT DISTINCT course_id FROM item WHERE provisional IS NOT NULL')
    .pluck()
    .all() as number[];
  for (const courseId of withMade) {
    const items = prepared(
      raw,
      'SELECT id, provisional, title AS name FROM item WHERE course_id = ? AND removed_at IS NULL',
    ).all(courseId) as Named[];
    joinItems(raw, courseId, pairsByName(items, foldWord));
  }
}

interface Person {
  id: number;
  provisional: number | null;
  name: string;
  email: string | null;
  course_id: number;
}

/** Records that were made, and the one record of a roster that each is. */
function peopleToMerge(raw: RawConnection): Pair[] {
  const rows = raw
    .prepare(
      `SELECT l.id, l.provisional, trim(l.given_name || ' ' || l.family_name) AS name, l.email, e.course_id
       FROM enrolment e JOIN learner l ON l.id = e.learner_id
       WHERE l.merged_into IS NULL AND e.status <> 'merged' AND e.course_id IN (
         SELECT course_id FROM enrolment e JOIN learner l ON l.id = e.learner_id WHERE l.provisional IS NOT NULL)`,
    )
    .all() as Person[];
  const pairs = new Map<number, number>();
  const fold = (email: string | null) => email?.trim().toLowerCase() ?? '';
  const addressed = raw
    .prepare('SELECT id, provisional, email AS name FROM learner WHERE merged_into IS NULL AND email IS NOT NULL')
    .all() as Named[];
  for (const [from, to] of pairsByName(addressed, fold)) pairs.set(from, to);
  for (const course of groupBy(rows, (row) => row.course_id).values()) {
    for (const same of groupBy(course, (row) => nameKey(row.name)).values()) {
      const told = same.filter(({ provisional }) => provisional === null);
      const made = same.filter(({ id, provisional }) => provisional !== null && !pairs.has(id));
      // Two of one name are never guessed, on either side.
      if (told.length !== 1 || made.length !== 1) continue;
      if (fold(made[0].email) !== '' && fold(told[0].email) !== '' && fold(made[0].email) !== fold(told[0].email))
        continue;
      pairs.set(made[0].id, told[0].id);
    }
  }
  return [...pairs];
}

/** Enrolments that a roster tells of, as it tells of them. */
const TOLD = ['status', 'enrolled_day', 'ended_day', 'group_id'] as const;

/** Makes a record that was made one with one that a roster tells of. */
export async function mergeInto(trx: Db, [gone, kept]: Pair, at: number, zone: string): Promise<void> {
  const today = dayOf(at, zone);
  const before = await trx('enrolment')
    .where({ learner_id: kept })
    .whereNull('provisional')
    .select('id', ...TOLD);
  await mergeRecords(trx, { kept, gone, staffId: null, at });
  for (const { id, ...told } of before) {
    const [now] = await trx('enrolment')
      .where({ id })
      .select(...TOLD);
    // A roster that leaves out when somebody began has said today.
    const day = told.enrolled_day === today ? Math.min(now.enrolled_day, today) : told.enrolled_day;
    await trx('enrolment')
      .where({ id })
      .update({ ...told, group_id: told.group_id ?? now.group_id, enrolled_day: day });
  }
}

/** Is there anything that no outline or roster has told of? */
function isAnythingProvisional(raw: RawConnection): boolean {
  const tables = ['learner', 'course', 'item'].map((table) => `SELECT 1 FROM ${table} WHERE provisional IS NOT NULL`);
  return (
    raw
      .prepare(`SELECT EXISTS (${tables.join(' UNION ALL ')})`)
      .pluck()
      .get() === 1
  );
}

/** Makes one what a file has told of and what was made before it. Done again it finds nothing more to do. */
export async function joinWhatWasMade(db: Db, at: number, zone: string): Promise<void> {
  if (!(await withRaw(db, isAnythingProvisional))) return;
  await writing(db, (trx) => withRaw(trx, joinCoursesAndItems));
  for (const pair of await withRaw(db, peopleToMerge)) await writing(db, (trx) => mergeInto(trx, pair, at, zone));
  await rawTransaction(db, (raw) => removeToldTwice(raw, zone));
}
