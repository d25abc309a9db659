/**
 * Taking results: attempts with their hand-ins, scores and feedback. What a file leaves empty stays as it is, a result that was
 * graded before the one that is stored is older news, and a score set by hand stays: the other is noted beside it.
 */
import { parseInstant } from '@/core/time/instant';
import type { RawConnection } from '../db';
import { checked } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import type { RowOf } from '../tables';
import { isNotFound, openWorkLookup } from './lookup';
import { storedFeedback } from '@/core/grades/feedback';
import { isWithoutResults } from './has-results';
import { StaleWork, staleCourseWork } from './stale-work';

export type AttemptRow = RowOf<'attempt'>;

/** An attempt as a source gives it; null for what it does not say. */
export interface GivenAttempt {
  learnerId: number;
  itemId: number;
  number: number;
  startedAt: number | null;
  submittedAt: number | null;
  score: number | null;
  points: number | null;
  gradedAt: number | null;
  grader: string | null;
  feedback: string | null;
  source: 'file' | 'live' | 'gradebook';
}

const HELD = ['started_at', 'submitted_at', 'score', 'points', 'graded_at', 'grader', 'feedback'] as const;
type Held = Pick<AttemptRow, (typeof HELD)[number]>;

const heldOf = (given: GivenAttempt): Held => ({
  started_at: given.startedAt,
  submitted_at: given.submittedAt,
  score: given.score,
  points: given.points,
  graded_at: given.gradedAt,
  grader: given.grader,
  feedback: given.feedback,
});

/** Opens what stores attempts: the statements are prepared once. */
export function openAttempts(raw: RawConnection, now: number) {
  const insert = raw.prepare(
    `INSERT INTO attempt (learner_id, item_id, number, started_at, submitted_at, score, points, graded_at, grader, feedback, source)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`,
  );
  const find = raw.prepare('SELECT * FROM attempt WHERE learner_id = ? AND item_id = ? AND number = ?');
  const update = raw.prepare(
    `UPDATE attempt SET started_at = ?, submitted_at = ?, score = ?, points = ?, graded_at = ?, grader = ?, feedback = ?,
       source = ?, other_score = ?, other_points = ? WHERE id = ?`,
  );
  const change = raw.prepare(
    `INSERT INTO grade_change (learner_id, item_id, number, at, old_score, score, old_points, points, grader, source)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  );
  const known = raw
    .prepare(
      'SELECT 1 FROM grade_change WHERE learner_id = ? AND item_id = ? AND number = ? AND (old_score = ? OR score = ?)',
    )
    .pluck();

  /** Stores what is new of an attempt, over what there is. */
  function join(stored: AttemptRow, given: GivenAttempt): boolean {
    const { learner_id, item_id, number } = stored;
    // A gradebook knows no more than a score: results that tell of the attempt itself take its place.
    if (stored.source === 'gradebook' && given.source !== 'gradebook')
      return write(stored, heldOf(given), given.source, [null, null]);
    const isByHand = stored.source === 'hand' && stored.score !== null;
    const isOlder = given.gradedAt !== null && stored.graded_at !== null && given.gradedAt < stored.graded_at;
    const differs =
      given.score !== null && (given.score !== stored.score || (given.points ?? stored.points) !== stored.points);
    const next: Held = {
      started_at: given.startedAt ?? stored.started_at,
      submitted_at: given.submittedAt ?? stored.submitted_at,
      score: stored.score,
      points: stored.points,
      graded_at: stored.graded_at,
      grader: stored.grader,
      feedback: stored.feedback ?? given.feedback,
    };
    let other = [stored.other_score, stored.other_points] as const;
    if (isByHand) {
      // It is neither overwritten nor lost: the two stand side by side until somebody settles it.
      if (given.score !== null) other = differs ? [given.score, given.points] : [null, null];
    } else if (isOlder) {
      // What came before is history that was not known, told once.
      const isTold = () => known.get(learner_id, item_id, number, given.score, given.score) !== undefined;
      if (differs && stored.score !== null && !isTold()) {
        noteChange(stored, [given.score, given.points], stored, stored.graded_at!, given.source);
        write(stored, next, given.source, other);
        return true;
      }
    } else {
      next.graded_at = given.gradedAt ?? stored.graded_at;
      next.grader = given.grader ?? stored.grader;
      next.feedback = given.feedback ?? stored.feedback;
      if (given.score !== null) Object.assign(next, { score: given.score, points: given.points ?? stored.points });
      if (differs && stored.score !== null)
        noteChange(stored, [stored.score, stored.points], next, given.gradedAt ?? now, given.source);
    }
    return write(stored, next, given.source, other);
  }

  function noteChange(
    { learner_id, item_id, number }: AttemptRow,
    [oldScore, oldPoints]: readonly [number | null, number | null],
    { score, points, grader }: Pick<Held, 'score' | 'points' | 'grader'>,
    at: number,
    source: GivenAttempt['source'],
  ): void {
    change.run(learner_id, item_id, number, at, oldScore, score, oldPoints, points, grader, source);
  }

  function write(
    stored: AttemptRow,
    next: Held,
    source: GivenAttempt['source'],
    [other, otherPoints]: readonly [number | null, number | null],
  ): boolean {
    const isSame = HELD.every((name) => next[name] === stored[name]);
    if (isSame && other === stored.other_score && otherPoints === stored.other_points) return false;
    // A gradebook's score is added to what is known of an attempt, which stays what it was.
    const isAdded = source === 'gradebook' && stored.source !== 'gradebook';
    const by = stored.source === 'hand' || isAdded ? stored.source : source;
    update.run(...HELD.map((name) => next[name]), by, other, otherPoints, stored.id);
    return true;
  }

  const retire = raw.prepare(
    "DELETE FROM attempt WHERE learner_id = ? AND item_id = ? AND source = 'gradebook' AND number <> ?",
  );
  const anyOfGradebook = raw.prepare("SELECT EXISTS (SELECT 1 FROM attempt WHERE source = 'gradebook')").pluck();
  const hasGradebook = anyOfGradebook.get() === 1;

  /** Takes an attempt. Returns whether anything is new. */
  return (came: GivenAttempt): boolean => {
    if (hasGradebook && came.source !== 'gradebook') retire.run(came.learnerId, came.itemId, came.number);
    const given = came.feedback === null ? came : { ...came, feedback: storedFeedback(came.feedback) };
    const { learnerId, itemId, number, startedAt, submittedAt, score, points, gradedAt, grader, feedback, source } =
      given;
    const { changes } = insert.run(
      learnerId,
      itemId,
      number,
      startedAt,
      submittedAt,
      score,
      points,
      gradedAt,
      grader,
      feedback,
      source,
    );
    if (changes > 0) return true;
    return join(find.get(learnerId, itemId, number) as AttemptRow, given);
  };
}

export const openResultsImporter: OpenImporter = (raw, context) => {
  const lookup = openWorkLookup(raw);
  const store = openAttempts(raw, context.now);
  const stale = new StaleWork(raw, context.zone);
  const [begun, first] = [new Set<number>(), new Set<number>()];
  const instant = (value: string | undefined) => (value ? parseInstant(value, context.timezone) : null);
  const numeral = (value: string | undefined) => (value ? Number(value) : null);
  return checked(
    context,
    (row) => {
      const found = lookup(row);
      if (isNotFound(found)) return found;
      const { learnerId, courseId, itemId } = found;
      if (!begun.has(itemId)) {
        begun.add(itemId);
        if (isWithoutResults(raw, itemId)) first.add(courseId);
      }
      const given: GivenAttempt = {
        learnerId,
        itemId,
        number: row.attempt ? Number(row.attempt) : 1,
        startedAt: instant(row.started_at),
        submittedAt: instant(row.submitted_at),
        score: numeral(row.score),
        points: numeral(row.points) || null,
        gradedAt: instant(row.graded_at),
        grader: row.grader || null,
        feedback: row.feedback || null,
        source: 'file',
      };
      // A score that nobody dated was known when it came.
      if (given.score !== null) given.gradedAt ??= given.submittedAt ?? context.now;
      if (!store(given)) return 'duplicate';
      stale.add(learnerId, courseId, given.startedAt, given.submittedAt, given.gradedAt);
      return 'accepted';
    },
    () => {
      stale.flush();
      staleCourseWork(raw, first);
      first.clear();
    },
  );
};
