/** Grades by hand: scores, attempts dismissed or taken back, and differences settled. Each change is kept. */
import type { RawConnection } from '../db';
import type { RowOf } from '../tables';

type AttemptRow = RowOf<'attempt'>;

export interface AttemptKey {
  learnerId: number;
  itemId: number;
  number: number;
}

function findAttempt(raw: RawConnection, { learnerId, itemId, number }: AttemptKey): AttemptRow | null {
  const found = raw
    .prepare('SELECT * FROM attempt WHERE learner_id = ? AND item_id = ? AND number = ?')
    .get(learnerId, itemId, number);
  return (found as AttemptRow | undefined) ?? null;
}

export interface HandScore {
  score: number;
  points: number | null;
  feedback: string | null;
  why: string;
  staffId: number | null;
  at: number;
}

function noteChange(
  raw: RawConnection,
  { learnerId, itemId, number }: AttemptKey,
  [old, oldPoints]: readonly [number | null, number | null],
  [score, points]: readonly [number | null, number | null],
  { at, staffId, why }: Pick<HandScore, 'at' | 'staffId' | 'why'>,
): void {
  raw
    .prepare(
      `INSERT INTO grade_change (learner_id, item_id, number, at, old_score, score, old_points, points, staff_id, why, source)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 'hand')`,
    )
    .run(learnerId, itemId, number, at, old, score, oldPoints, points, staffId, why);
}

/** Sets a score by hand; an attempt that is not there yet is work on paper, handed in by then. */
export function setScore(raw: RawConnection, key: AttemptKey, hand: HandScore): void {
  const { score, points, feedback, staffId, at } = hand;
  const old = findAttempt(raw, key);
  if (!old) {
    raw
      .prepare(
        `INSERT INTO attempt (learner_id, item_id, number, submitted_at, score, points, graded_at, feedback, source, staff_id)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, 'hand', ?)`,
      )
      .run(key.learnerId, key.itemId, key.number, at, score, points, at, feedback, staffId);
  } else {
    raw
      .prepare(
        `UPDATE attempt SET submitted_at = ifnull(submitted_at, ?), score = ?, points = ?, graded_at = ?, grader = NULL,
           feedback = ifnull(?, feedback), source = 'hand', staff_id = ?, other_score = NULL, other_points = NULL WHERE id = ?`,
      )
      .run(at, score, points ?? old.points, at, feedback, staffId, old.id);
  }
  noteChange(raw, key, [old?.score ?? null, old?.points ?? null], [score, points ?? old?.points ?? null], hand);
}

/** Dismisses an attempt, or takes it back. Returns false for one that is not there. */
export function dismiss(
  raw: RawConnection,
  key: AttemptKey,
  isDismissed: boolean,
  { why, staffId, at }: Pick<HandScore, 'why' | 'staffId' | 'at'>,
): boolean {
  const old = findAttempt(raw, key);
  if (!old || (old.dismissed_at !== null) === isDismissed) return false;
  raw
    .prepare('UPDATE attempt SET dismissed_at = ?, dismissed_by = ?, dismissed_why = ? WHERE id = ?')
    .run(isDismissed ? at : null, isDismissed ? staffId : null, isDismissed ? why : null, old.id);
  const [kept, none] = [
    [old.score, old.points],
    [null, old.points],
  ] as const;
  noteChange(raw, key, isDismissed ? kept : none, isDismissed ? none : kept, {
    at,
    staffId,
    why: `${isDismissed ? 'dismissed' : 'taken back'}: ${why}`,
  });
  return true;
}

/** Settles a score by hand against a file's: keeps ours, or takes theirs. Returns false where there is no difference. */
export function storeSettledScore(
  raw: RawConnection,
  key: AttemptKey,
  take: 'ours' | 'theirs',
  { staffId, at }: Pick<HandScore, 'staffId' | 'at'>,
): boolean {
  const old = findAttempt(raw, key);
  if (!old || old.other_score === null) return false;
  if (take === 'theirs') {
    const points = old.other_points ?? old.points;
    raw
      .prepare(`UPDATE attempt SET score = ?, points = ?, graded_at = ?, source = 'file', staff_id = ? WHERE id = ?`)
      .run(old.other_score, points, at, staffId, old.id);
    noteChange(raw, key, [old.score, old.points], [old.other_score, points], {
      at,
      staffId,
      why: 'the file’s score taken',
    });
  }
  raw.prepare('UPDATE attempt SET other_score = NULL, other_points = NULL WHERE id = ?').run(old.id);
  return true;
}
