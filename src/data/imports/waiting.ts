/** Rows that wait until somebody says whom they are about. */
import { Matcher, nameKey } from '@/core/sessions/match';
import { groupBy } from '@/core/group-by';
import { prepared, type RawConnection } from '../db';
import { candidatesOf } from '../sessions/presence';

/** Somebody whom nobody knows, over all files. */
export interface WaitingPerson {
  courseId: number;
  course: string;
  folded: string;
  person: string;
  rows: number;
  files: string[];
  /** Who it may be, the likeliest first: those of the same name, or the one whose name is close. */
  likely: { id: number; name: string; learnerId: string }[];
}

/** The name alone of somebody as they are named with an address or an id behind it. */
export function nameInWords(person: string): string {
  return person.replace(/ \([^()]*\)$/, '');
}

/** Everybody whom rows wait for, those with the most rows first. */
export function waitingPeople(raw: RawConnection, limit: number): WaitingPerson[] {
  const rows = prepared(
    raw,
    `SELECT w.course_id AS courseId, c.title AS course, w.folded, min(w.person) AS person, count(*) AS rows,
       json_group_array(DISTINCT r.file_name) AS files
     FROM waiting_row w JOIN course c ON c.id = w.course_id JOIN import_run r ON r.id = w.run_id
     GROUP BY w.course_id, w.folded ORDER BY rows DESC, w.folded LIMIT ?`,
  ).all(limit) as (Omit<WaitingPerson, 'files' | 'likely'> & { files: string })[];
  return [...groupBy(rows, ({ courseId }) => courseId)].flatMap(([courseId, own]) => {
    const candidates = candidatesOf(raw, courseId);
    const matcher = new Matcher(candidates);
    return own.map((row) => {
      const called = nameInWords(row.person);
      const key = nameKey(called);
      const same = candidates.filter(({ name }) => nameKey(name) === key);
      const close = matcher.propose({ person: called });
      const likely = same.length > 0 ? same : candidates.filter(({ id }) => id === close?.id);
      return { ...row, files: JSON.parse(row.files) as string[], likely };
    });
  });
}

interface WaitingRow {
  run_id: number;
  line: number;
  cells: string[];
}

/** The rows of one name in a course, by the import that they came with. */
export function waitingRowsOf(raw: RawConnection, courseId: number, folded: string): Map<number, WaitingRow[]> {
  const rows = prepared(
    raw,
    'SELECT run_id, line, cells FROM waiting_row WHERE course_id = ? AND folded = ? ORDER BY run_id, line',
  ).all(courseId, folded) as (Omit<WaitingRow, 'cells'> & { cells: string })[];
  return groupBy(
    rows.map((row) => ({ ...row, cells: JSON.parse(row.cells) as string[] })),
    (row) => row.run_id,
  );
}

/** Takes the rows of a name away, once they are in the queue, or of nobody. */
export function removeWaiting(raw: RawConnection, courseId: number, folded: string): void {
  prepared(
    raw,
    `UPDATE import_run SET waiting = max(0, waiting - (SELECT count(*) FROM waiting_row w WHERE w.run_id = import_run.id
       AND w.course_id = @courseId AND w.folded = @folded)) WHERE id IN (
       SELECT run_id FROM waiting_row WHERE course_id = @courseId AND folded = @folded)`,
  ).run({ courseId, folded });
  prepared(raw, 'DELETE FROM waiting_row WHERE course_id = ? AND folded = ?').run(courseId, folded);
}

/** Makes a learner of somebody whom nobody knew, enrolled in the course. Returns the record's id. */
export function makeLearner(
  raw: RawConnection,
  {
    courseId,
    name,
    day,
    runId,
  }: { courseId: number; name: { given: string; family: string; whole: string }; day: number; runId: number },
): number {
  const isTaken = prepared(raw, 'SELECT 1 FROM learner WHERE external_id = ?').pluck();
  const wanted = `${name.whole} (by name)`;
  let id = wanted;
  for (let number = 2; isTaken.get(id) !== undefined; number += 1) id = `${wanted} (${number})`;
  const { lastInsertRowid } = prepared(
    raw,
    'INSERT INTO learner (external_id, given_name, family_name, provisional) VALUES (?, ?, ?, ?)',
  ).run(id, name.given, name.family, runId);
  prepared(
    raw,
    "INSERT INTO enrolment (learner_id, course_id, status, enrolled_day, provisional) VALUES (?, ?, 'active', ?, ?)",
  ).run(lastInsertRowid, courseId, day, runId);
  return Number(lastInsertRowid);
}
