/**
 * Whose log changed, and over which time: what has to be derived anew. Noted in the transaction
 * that changes the log, whoever does it, and taken away by whoever has derived it.
 *
 * Each note carries a revision that is new each time: what was derived from the log as it stood is
 * stored only while the revision is still the same.
 */
import type { RawConnection } from '../db';

/** A number that stands for one noting: no two are alike, and JavaScript holds it exactly. */
const NEW_REVISION = '(random() & 9007199254740991)';

const KEEP_WIDEST = `ON CONFLICT DO UPDATE SET from_at = min(from_at, excluded.from_at),
  to_at = max(to_at, excluded.to_at), revision = excluded.revision`;

/** SQL that notes what a SELECT of three columns gives: learners, with their first and last instants. */
export function touching(select: string): string {
  return `INSERT INTO touched (learner_id, from_at, to_at, revision)
    SELECT who.*, ${NEW_REVISION} FROM (${select}) AS who WHERE true ${KEEP_WIDEST}`;
}

/** Notes one learner over a stretch of time. */
export function openTouch(raw: RawConnection): (learnerId: number, from: number, to: number) => void {
  const note = raw.prepare(
    `INSERT INTO touched (learner_id, from_at, to_at, revision) VALUES (?, ?, ?, ${NEW_REVISION}) ${KEEP_WIDEST}`,
  );
  return (learnerId, from, to) => void note.run(learnerId, from, to);
}

export interface Touched {
  learner_id: number;
  from_at: number;
  to_at: number;
  revision: number;
}

/** Learners whose log changed, by id, after one. */
export function touchedAfter(raw: RawConnection, learnerId: number, limit: number): Touched[] {
  return raw
    .prepare('SELECT * FROM touched WHERE learner_id > ? ORDER BY learner_id LIMIT ?')
    .all(learnerId, limit) as Touched[];
}

/** Has anything been written that figures have not been made anew by? */
export function isAnythingTouched(raw: RawConnection): boolean {
  return raw.prepare('SELECT 1 FROM touched').get() !== undefined;
}
