/** The rows of a session's presence record, by whom they are about. */
import type { MatchedBy } from '@/core/sessions/match';
import type { Db } from '../db';
import { freeText } from '../person';
import { courseRowInScope, type Viewer } from '../scope';

/** One row whose learner is known. */
interface OwnRow {
  learner_id: number;
  entered: number;
  left: number | null;
}

/** One name whose learner is not, with its rows as one. */
export interface UnmatchedRow {
  person: string;
  email: string | null;
  folded: string;
  entered: number;
  left: number | null;
  rows: number;
  matched: MatchedBy | null;
}

/** Rows of learners in scope, and the names of the others. */
export async function presenceRows(db: Db, viewer: Viewer, sessionId: number) {
  const [matched, rest] = await Promise.all([
    db
      .from(
        db('presence_row as r')
          .join('session as s', 's.id', 'r.session_id')
          .where('r.session_id', sessionId)
          .whereNotNull('r.learner_id')
          .select('r.learner_id', 'r.entered', 'r.left', 's.course_id')
          .as('own'),
      )
      .where(courseRowInScope(db, viewer, 'own'))
      .orderBy('own.entered')
      .select('own.learner_id', 'own.entered', 'own.left'),
    db('presence_row')
      .where('session_id', sessionId)
      .whereNull('learner_id')
      .groupBy(['folded', 'matched'])
      .orderByRaw('min(entered)')
      .select(
        'folded',
        'matched',
        db.raw(`${freeText(viewer, 'max(person)')} AS person`),
        db.raw(`${freeText(viewer, 'max(email)')} AS email`),
        db.raw('min(entered) AS entered'),
        db.raw('max("left") AS "left"'),
        db.raw('count(*) AS rows'),
      ),
  ]);
  const others = rest as unknown as UnmatchedRow[];
  return {
    matched: matched as OwnRow[],
    unmatched: others.filter((row) => row.matched === null),
    others: others.filter((row) => row.matched !== null),
  };
}
