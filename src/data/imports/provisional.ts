/** What was made before an outline or a roster told of it: to be confirmed, made one with something known, or dropped. */
import { courseIsThere } from '../courses/courses';
import { prepared, type Db, type RawConnection } from '../db';
import { staleCourses } from '../drift/stale';
import { staleCourseWork } from '../work/stale-work';

export const PROVISIONAL_KINDS = ['course', 'learner', 'item'] as const;
export type ProvisionalKind = (typeof PROVISIONAL_KINDS)[number];

export interface ProvisionalRow {
  kind: ProvisionalKind;
  id: number;
  /** The id that it has for now. */
  external_id: string;
  name: string;
  /** Courses that it is in. */
  courses: string[];
  /** The file that it was made for. */
  file: string | null;
  /** Events and scores that hang on it. */
  hangs: number;
}

const SELECTS: Record<ProvisionalKind, string> = {
  course: `SELECT 'course' AS kind, c.id, c.code AS external_id, c.title AS name, json_array(c.code) AS courses, r.file_name AS file,
      (SELECT count(*) FROM enrolment e WHERE e.course_id = c.id AND e.status <> 'merged') AS hangs
    FROM course c LEFT JOIN import_run r ON r.id = c.provisional WHERE c.provisional IS NOT NULL AND ${courseIsThere('c')}`,
  learner: `SELECT 'learner' AS kind, l.id, l.external_id, trim(l.given_name || ' ' || l.family_name) AS name,
      (SELECT json_group_array(c.code) FROM enrolment e JOIN course c ON c.id = e.course_id
        WHERE e.learner_id = l.id AND e.status <> 'merged') AS courses, r.file_name AS file,
      ifnull((SELECT sum(events) FROM learner_course k WHERE k.learner_id = l.id), 0)
        + (SELECT count(*) FROM attempt a WHERE a.learner_id = l.id) AS hangs
    FROM learner l LEFT JOIN import_run r ON r.id = l.provisional
    WHERE l.provisional IS NOT NULL AND l.merged_into IS NULL
      AND NOT EXISTS (SELECT 1 FROM dropped d WHERE d.kind = 'learner' AND d.record_id = l.id)`,
  item: `SELECT 'item' AS kind, i.id, i.external_id, i.title AS name, json_array(c.code) AS courses, r.file_name AS file,
      (SELECT count(*) FROM item_day d WHERE d.item_id = i.id) + (SELECT count(*) FROM attempt a WHERE a.item_id = i.id) AS hangs
    FROM item i JOIN course c ON c.id = i.course_id LEFT JOIN import_run r ON r.id = i.provisional
    WHERE i.provisional IS NOT NULL AND i.removed_at IS NULL`,
};

/** Everything provisional, courses first; @param limit of each kind */
export function provisionalRows(raw: RawConnection, limit: number): ProvisionalRow[] {
  return PROVISIONAL_KINDS.flatMap((kind) => {
    const rows = prepared(raw, `SELECT * FROM (${SELECTS[kind]}) ORDER BY name, id LIMIT ?`).all(limit) as (Omit<
      ProvisionalRow,
      'courses'
    > & {
      courses: string;
    })[];
    return rows.map((row) => ({ ...row, courses: JSON.parse(row.courses) as string[] }));
  });
}

/** One of them; null for none. */
export function findProvisional(raw: RawConnection, kind: ProvisionalKind, id: number): ProvisionalRow | null {
  const row = prepared(raw, `SELECT * FROM (${SELECTS[kind]}) WHERE id = ?`).get(id) as
    (Omit<ProvisionalRow, 'courses'> & { courses: string }) | undefined;
  return row === undefined ? null : { ...row, courses: JSON.parse(row.courses) as string[] };
}

/** It is right as it is: no longer provisional. */
export function confirm(raw: RawConnection, kind: ProvisionalKind, id: number): void {
  prepared(raw, `UPDATE ${kind} SET provisional = NULL WHERE id = ?`).run(id);
  if (kind === 'learner') prepared(raw, 'UPDATE enrolment SET provisional = NULL WHERE learner_id = ?').run(id);
}

/** What a provisional thing may be made one with: the record of the same kind by its id, in the same course for an item. */
export function joinTarget(raw: RawConnection, kind: ProvisionalKind, id: number, withId: string): number | null {
  const sql = {
    course: 'SELECT id FROM course WHERE code = @withId AND id <> @id',
    learner:
      'SELECT ifnull(merged_into, id) FROM learner WHERE external_id = @withId AND id <> @id AND merged_into IS NOT @id',
    item: `SELECT id FROM item WHERE external_id = @withId AND id <> @id AND removed_at IS NULL
      AND course_id = (SELECT course_id FROM item WHERE id = @id)`,
  }[kind];
  return (prepared(raw, sql).pluck().get({ id, withId }) as number | undefined) ?? null;
}

/** The course of an item. */
export function courseOfItem(raw: RawConnection, id: number): number {
  return prepared(raw, 'SELECT course_id FROM item WHERE id = ?').pluck().get(id) as number;
}

interface Before {
  /** Enrolments with their status. */
  enrolments: [id: number, status: string][];
  /** Of a course: what it was called, and what of it was there. */
  course?: { code: string; title: string; items: number[]; sessions: number[] };
}

type Dropped = Pick<ProvisionalRow, 'id' | 'kind' | 'name'>;

const idsOf = (raw: RawConnection, sql: string, id: number) => prepared(raw, sql).pluck().all(id) as number[];

/** Enrolments of somebody or of a course, which are out of sight from now on; with their status until then. */
function hideEnrolments(raw: RawConnection, by: 'learner_id' | 'course_id', id: number): Before['enrolments'] {
  const before = prepared(raw, `SELECT id, status FROM enrolment WHERE ${by} = ?`).raw().all(id);
  prepared(raw, `UPDATE enrolment SET status = 'merged' WHERE ${by} = ?`).run(id);
  return before as Before['enrolments'];
}

/** A dropped course keeps its record under another name, so that the next file of that name makes one anew. */
function dropCourse(raw: RawConnection, id: number, at: number): Before {
  const names = prepared(raw, 'SELECT code, title FROM course WHERE id = ?').get(id) as { code: string; title: string };
  const items = idsOf(raw, 'SELECT id FROM item WHERE course_id = ? AND removed_at IS NULL', id);
  const sessions = idsOf(raw, 'SELECT id FROM session WHERE course_id = ? AND removed_at IS NULL', id);
  for (const table of ['item', 'session'])
    prepared(raw, `UPDATE ${table} SET removed_at = ? WHERE course_id = ? AND removed_at IS NULL`).run(at, id);
  prepared(
    raw,
    "UPDATE course SET code = code || ' (dropped ' || id || ')', title = title || ' (dropped ' || id || ')' WHERE id = ?",
  ).run(id);
  return { enrolments: hideEnrolments(raw, 'course_id', id), course: { ...names, items, sessions } };
}

/** Takes a learner, an item or a course out of sight, with all that hangs on it; it can be brought back. */
export function drop(
  raw: RawConnection,
  { kind, id, name }: Dropped,
  { at, staffId }: { at: number; staffId: number | null },
): void {
  let before: Before = { enrolments: [] };
  if (kind === 'item') {
    prepared(raw, 'UPDATE item SET removed_at = ? WHERE id = ?').run(at, id);
    staleCourseWork(raw, [courseOfItem(raw, id)]);
  } else if (kind === 'learner') {
    before.enrolments = hideEnrolments(raw, 'learner_id', id);
    staleOf(raw, id);
  } else before = dropCourse(raw, id, at);
  prepared(
    raw,
    'INSERT INTO dropped (kind, record_id, name, at, staff_id, before) VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING',
  ).run(kind, id, name, at, staffId, JSON.stringify(before));
}

function staleOf(raw: RawConnection, learnerId: number): void {
  const courses = prepared(raw, 'SELECT course_id FROM enrolment WHERE learner_id = ?')
    .pluck()
    .all(learnerId) as number[];
  staleCourses(raw, new Set(courses));
}

/** A course's name is taken by another that was made since. */
export class NameTaken extends Error {
  override name = 'NameTaken';
}

function bringCourseBack(
  raw: RawConnection,
  id: number,
  { code, title, items, sessions }: NonNullable<Before['course']>,
): void {
  if (prepared(raw, 'SELECT 1 FROM course WHERE code = ? AND id <> ?').get(code, id) !== undefined)
    throw new NameTaken(code);
  prepared(raw, 'UPDATE course SET code = ?, title = ? WHERE id = ?').run(code, title, id);
  for (const [table, ids] of [
    ['item', items],
    ['session', sessions],
  ] as const)
    prepared(raw, `UPDATE ${table} SET removed_at = NULL WHERE id IN (SELECT value FROM json_each(?))`).run(
      JSON.stringify(ids),
    );
  staleCourseWork(raw, [id]);
}

/** Brings back what was dropped. Returns what it is called; null where nothing of the kind was dropped. @throws NameTaken */
export function bringBack(raw: RawConnection, droppedId: number): string | null {
  const row = prepared(raw, 'SELECT kind, record_id AS id, name, before FROM dropped WHERE id = ?').get(droppedId) as
    (Dropped & { before: string }) | undefined;
  if (row === undefined) return null;
  const { enrolments, course } = JSON.parse(row.before) as Before;
  if (row.kind === 'item') {
    prepared(raw, 'UPDATE item SET removed_at = NULL WHERE id = ?').run(row.id);
    staleCourseWork(raw, [courseOfItem(raw, row.id)]);
  }
  for (const [id, status] of enrolments) prepared(raw, 'UPDATE enrolment SET status = ? WHERE id = ?').run(status, id);
  if (course) bringCourseBack(raw, row.id, course);
  if (row.kind === 'learner') staleOf(raw, row.id);
  else if (row.kind === 'course') staleCourses(raw, new Set([row.id]));
  prepared(raw, 'DELETE FROM dropped WHERE id = ?').run(droppedId);
  return row.name;
}

/** What was dropped, newest first. */
export async function droppedRows(db: Db): Promise<{ id: number; kind: string; name: string; at: number }[]> {
  return db('dropped').orderBy('id', 'desc').limit(50).select('id', 'kind', 'name', 'at');
}
