/**
 * What courses tell of: the days on which anything of a kind of evidence was told of anybody. Noted while figures are derived,
 * and never taken back: that a course once told of hand-ins stays true when one of them is dismissed.
 */
import type { Evidence, EvidenceKind } from '@/core/drift/evidence';
import { isWork } from '@/core/work/owed';
import type { ItemKind } from '@/core/courses/item-kinds';
import { dayOf } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';
import { OF_COURSE, markStale, type Group } from './stale';

/** Evidence that was found while deriving, until what is derived is stored. */
export const STAGED_EVIDENCE = 'temp.stage_evidence';

/** Where evidence is read from: as stored, or with what is on the stage. */
export type EvidenceFrom = 'stored' | 'staged';

export function openEvidenceStage(raw: RawConnection): void {
  raw.exec(`DROP TABLE IF EXISTS ${STAGED_EVIDENCE};
    CREATE TABLE ${STAGED_EVIDENCE} (course_id INTEGER NOT NULL, kind TEXT NOT NULL, day INTEGER NOT NULL,
      PRIMARY KEY (course_id, kind, day)) WITHOUT ROWID`);
}

export function closeEvidenceStage(raw: RawConnection): void {
  raw.exec(`DROP TABLE IF EXISTS ${STAGED_EVIDENCE}`);
}

/** SQL that gives the evidence of days of the log, from a table of such days. */
const OF_DAYS = (table: string) => `SELECT DISTINCT course_id, kind, day FROM (
    SELECT course_id, 'opens' AS kind, day FROM ${table} WHERE events > 0
    UNION ALL SELECT course_id, 'worked', day FROM ${table} WHERE worked + talked > 0
    UNION ALL SELECT course_id, 'talked', day FROM ${table} WHERE talked > 0)`;

/** Notes what the staged days tell, and lets go of what was known before. */
export function stageEvidenceOfDays(raw: RawConnection): void {
  raw.exec(`INSERT OR IGNORE INTO ${STAGED_EVIDENCE} ${OF_DAYS('temp.stage_learner_day')};
    DELETE FROM ${STAGED_EVIDENCE} WHERE EXISTS (SELECT 1 FROM main.course_evidence AS e
      WHERE e.course_id = stage_evidence.course_id AND e.kind = stage_evidence.kind AND e.day = stage_evidence.day)`);
}

/** Days without anything of a kind after which news of it may change what was read before. */
const LONG_SILENCE = 14;

/**
 * Groups whose readings the staged evidence changes, each from the first day concerned: all of a course where a kind is told
 * for the first time, earlier than known, or after a long silence.
 */
export function groupsOfEvidence(raw: RawConnection): (Group & { fromDay: number })[] {
  return raw
    .prepare(
      `SELECT DISTINCT e.course_id AS courseId, e.group_id AS groupId, n.day AS fromDay FROM (
         SELECT course_id, min(day) AS day FROM ${STAGED_EVIDENCE} AS s
         WHERE NOT EXISTS (SELECT 1 FROM course_evidence AS o WHERE o.course_id = s.course_id AND o.kind = s.kind
           AND o.day < s.day AND o.day >= s.day - ${LONG_SILENCE})
         GROUP BY course_id) AS n JOIN enrolment e ON e.course_id = n.course_id`,
    )
    .all() as (Group & { fromDay: number })[];
}

/** Stores the staged evidence, in the caller's write transaction; readings that it changes are stale. */
export function storeEvidence(raw: RawConnection, groups: readonly (Group & { fromDay: number })[]): void {
  raw.exec(`INSERT OR IGNORE INTO main.course_evidence SELECT course_id, kind, day FROM ${STAGED_EVIDENCE}`);
  const courses = new Map(groups.map(({ courseId, fromDay }) => [courseId, fromDay]));
  for (const [courseId, fromDay] of courses) markStale(raw, OF_COURSE, { courseId, fromDay });
}

const SESSION_DAYS = `SELECT s.day,
    s.roll_at IS NOT NULL OR EXISTS (SELECT 1 FROM presence_row WHERE session_id = s.id)
      OR EXISTS (SELECT 1 FROM check_in WHERE session_id = s.id AND learner_id IS NOT NULL) AS told
  FROM session s WHERE s.course_id = ? AND s.cancelled = 0 AND s.removed_at IS NULL ORDER BY s.day`;

const distinct = (days: readonly number[]) => [...new Set(days)].sort((a, b) => a - b);

/** What a course tells of, with the days on which something of it fell due. */
export function readEvidence(raw: RawConnection, courseId: number, zone: string, from: EvidenceFrom): Evidence {
  const staged = from === 'staged' ? `UNION SELECT kind, day FROM ${STAGED_EVIDENCE} WHERE course_id = @courseId` : '';
  const told = new Map<EvidenceKind, number[]>();
  const rows = prepared(raw, `SELECT kind, day FROM course_evidence WHERE course_id = @courseId ${staged} ORDER BY day`)
    .raw()
    .all({ courseId }) as [EvidenceKind, number][];
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
