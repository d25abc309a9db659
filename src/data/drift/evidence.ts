/**
 * What courses tell of: the days on which anything of a kind of evidence was told of anybody. Noted while figures are derived,
 * and never taken back: that a course once told of hand-ins stays true when one of them is dismissed.
 */
import type { Evidence, EvidenceKind } from '@/core/drift/evidence';
import { isWork } from '@/core/work/due';
import type { ItemKind } from '@/core/courses/item-kinds';
import { dayOf } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';
import { OF_COURSE, noteStale } from './stale';

/** SQL that gives the evidence of days of the log, from a table of such days. */
export const EVIDENCE_OF_DAYS = (table: string) => `SELECT DISTINCT course_id, kind, day FROM (
    SELECT course_id, 'opens' AS kind, day FROM ${table} WHERE events > 0
    UNION ALL SELECT course_id, 'worked', day FROM ${table} WHERE worked + talked > 0
    UNION ALL SELECT course_id, 'talked', day FROM ${table} WHERE talked > 0)`;

/** SQL of evidence given as JSON, for `@found`. */
export const EVIDENCE_GIVEN =
  'SELECT value ->> 0 AS course_id, value ->> 1 AS kind, value ->> 2 AS day FROM json_each(@found)';

/** Days without anything of a kind after which news of it may change what was read before. */
const LONG_SILENCE = 14;

/**
 * Stores evidence that was found, in the caller's write transaction. Readings that it changes are stale: all of a course from the
 * first day on which a kind is told for the first time, earlier than known, or after a long silence.
 *
 * @param select SQL of what was found: `course_id`, `kind` and `day`
 */
export function storeEvidence(raw: RawConnection, select: string, params: Record<string, unknown> = {}): void {
  const news = prepared(
    raw,
    `SELECT f.course_id, min(f.day) FROM (${select}) AS f
     WHERE NOT EXISTS (SELECT 1 FROM course_evidence AS o WHERE o.course_id = f.course_id AND o.kind = f.kind
       AND o.day <= f.day AND o.day >= f.day - ${LONG_SILENCE})
     GROUP BY f.course_id`,
  )
    .raw()
    .all(params) as [courseId: number, fromDay: number][];
  prepared(raw, `INSERT OR IGNORE INTO course_evidence (course_id, kind, day) ${select}`).run(params);
  for (const [courseId, fromDay] of news) noteStale(raw, OF_COURSE, { courseId, fromDay });
}

const SESSION_DAYS = `SELECT s.day,
    s.roll_at IS NOT NULL OR EXISTS (SELECT 1 FROM presence_row WHERE session_id = s.id)
      OR EXISTS (SELECT 1 FROM check_in WHERE session_id = s.id AND learner_id IS NOT NULL) AS told
  FROM session s WHERE s.course_id = ? AND s.cancelled = 0 AND s.removed_at IS NULL ORDER BY s.day`;

const distinct = (days: readonly number[]) => [...new Set(days)].sort((a, b) => a - b);

/** What a course tells of, with the days on which something of it fell due. */
export function readEvidence(raw: RawConnection, courseId: number, zone: string): Evidence {
  const told = new Map<EvidenceKind, number[]>();
  const rows = prepared(raw, 'SELECT kind, day FROM course_evidence WHERE course_id = ? ORDER BY day')
    .raw()
    .all(courseId) as [EvidenceKind, number][];
  for (const [kind, day] of rows) {
    const days = told.get(kind);
    if (days) days.push(day);
    else told.set(kind, [day]);
  }
  const evidence: Evidence = Object.fromEntries([...told].map(([kind, days]) => [kind, { days }]));
  const dues = prepared(
    raw,
    'SELECT kind, points, due_at FROM item WHERE course_id = ? AND removed_at IS NULL AND due_at > 0',
  )
    .raw()
    .all(courseId) as [ItemKind, number | null, number][];
  const dueDays = distinct(dues.flatMap(([kind, points, at]) => (isWork(kind, points) ? [dayOf(at, zone)] : [])));
  if (evidence.hand_ins) evidence.hand_ins = { ...evidence.hand_ins, dues: dueDays };
  if (evidence.grades) evidence.grades = { ...evidence.grades, dues: evidence.hand_ins?.days ?? [] };
  const sessions = prepared(raw, SESSION_DAYS).raw().all(courseId) as [day: number, told: number][];
  const sessionDays = distinct(sessions.flatMap(([day, isTold]) => (isTold === 1 ? [day] : [])));
  if (sessionDays.length > 0) evidence.sessions = { days: sessionDays, dues: distinct(sessions.map(([day]) => day)) };
  return evidence;
}
