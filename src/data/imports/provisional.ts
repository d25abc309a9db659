/** What was made before an outline or a roster told of it: to be confirmed, made one with something known, or dropped. */
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
    FROM course c LEFT JOIN import_run r ON r.id = c.provisional WHERE c.provisional IS NOT NULL`,
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
}

/** Takes a learner or an item out of sight, with all that hangs on it; it can be brought back. */
export function drop(
  raw: RawConnection,
  { kind, id, name }: Pick<ProvisionalRow, 'id' | 'name'> & { kind: 'learner' | 'item' },
  { at, staffId }: { at: number; staffId: number | null },
): void {
  const before: Before = { enrolments: [] };
  if (kind === 'item') {
    prepared(raw, 'UPDATE item SET removed_at = ? WHERE id = ?').run(at, id);
    staleCourseWork(raw, [courseOfItem(raw, id)]);
  } else {
    before.enrolments = prepared(raw, 'SELECT id, status FROM enrolment WHERE learner_id = ?').raw().all(id) as [
      number,
      string,
    ][];
    prepared(raw, "UPDATE enrolment SET status = 'merged' WHERE learner_id = ?").run(id);
    staleOf(raw, id);
  }
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

/** Brings back what was dropped. Returns what it is called; null where nothing of the kind was dropped. */
export function bringBack(raw: RawConnection, droppedId: number): string | null {
  const row = prepared(raw, 'SELECT kind, record_id, name, before FROM dropped WHERE id = ?').get(droppedId) as
    { kind: 'learner' | 'item'; record_id: number; name: string; before: string } | undefined;
  if (row === undefined) return null;
  if (row.kind === 'item') {
    prepared(raw, 'UPDATE item SET removed_at = NULL WHERE id = ?').run(row.record_id);
    staleCourseWork(raw, [courseOfItem(raw, row.record_id)]);
  } else {
    const { enrolments } = JSON.parse(row.before) as Before;
    for (const [id, status] of enrolments)
      prepared(raw, 'UPDATE enrolment SET status = ? WHERE id = ?').run(status, id);
    staleOf(raw, row.record_id);
  }
  prepared(raw, 'DELETE FROM dropped WHERE id = ?').run(droppedId);
  return row.name;
}

/** What was dropped, newest first. */
export async function droppedRows(db: Db): Promise<{ id: number; kind: string; name: string; at: number }[]> {
  return db('dropped').orderBy('id', 'desc').limit(50).select('id', 'kind', 'name', 'at');
}
