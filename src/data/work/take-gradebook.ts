/**
 * Taking scores from a gradebook, which knows neither attempts nor when anything was handed in. Where attempts are known, they
 * stay: a score grades the one that has none, and corrects the only one when it is newer.
 */
import { parseInstant } from '@/core/time/instant';
import { plural, sayCount } from '@/core/time/words';
import { prepared } from '../db';
import { checked } from '../imports/rows';
import type { OpenImporter } from '../imports/importer';
import { findExtension, setExtension } from './extensions';
import { isNotFound, openWorkLookup } from './lookup';
import { StaleWork } from './stale-work';
import { openAttempts, type AttemptRow, type GivenAttempt } from './take-results';
import { nextBatch } from './work-changes';

/** Of two scores that are rounded differently, how far they may be apart, as a share. */
const ROUNDING = 0.006;

export const openGradebookImporter: OpenImporter = (raw, context) => {
  const lookup = openWorkLookup(raw);
  const store = openAttempts(raw, context.now);
  const stale = new StaleWork(raw, context.zone);
  const staffId = prepared(raw, 'SELECT staff_id FROM import_run WHERE id = ?').pluck().get(context.runId) as
    number | null;
  let batch: number | null = null;
  let differing = 0;

  /** The attempt that a score is of: a number, or null where what is known already is more exact. */
  function attemptFor(learnerId: number, itemId: number, share: number | null, gradedAt: number): number | null {
    const known = prepared(
      raw,
      'SELECT * FROM attempt WHERE learner_id = ? AND item_id = ? AND dismissed_at IS NULL ORDER BY number DESC',
    ).all(learnerId, itemId) as AttemptRow[];
    if (known.length === 0) return 1;
    const own = known.find(({ source }) => source === 'gradebook');
    if (own) return own.number;
    const graded = known.filter(({ score }) => score !== null);
    if (graded.length === 0) return known[0].number;
    const isTold = graded.some(
      ({ score, points }) => share === null || points === null || Math.abs(score! / points - share) < ROUNDING,
    );
    if (isTold) return null;
    if (known.length === 1 && gradedAt > (graded[0].graded_at ?? graded[0].submitted_at ?? 0)) return known[0].number;
    differing += 1;
    return null;
  }

  function excuse(learnerId: number, itemId: number): boolean {
    const old = findExtension(raw, learnerId, itemId);
    if (old !== null && (old.source === 'hand' || old.excused === 1)) return false;
    batch ??= nextBatch(raw);
    const extension = { learnerId, itemId, staffId, at: context.now, reason: 'excused in the gradebook' };
    setExtension(raw, batch, extension, { dueAt: old?.due_at ?? null, isExcused: true, source: 'file' });
    return true;
  }

  /** Something handed in that nobody has graded: told where nothing is known of a hand-in. */
  function handIn(learnerId: number, courseId: number, itemId: number, submittedAt: number) {
    const known = prepared(raw, 'SELECT 1 FROM attempt WHERE learner_id = ? AND item_id = ? LIMIT 1');
    if (known.get(learnerId, itemId) !== undefined) return 'duplicate';
    const nobody = { score: null, points: null, gradedAt: null, grader: null, feedback: null };
    const given = {
      learnerId,
      itemId,
      number: 1,
      startedAt: null,
      submittedAt,
      ...nobody,
      source: 'gradebook' as const,
    };
    if (!store(given)) return 'duplicate';
    stale.add(learnerId, courseId, submittedAt);
    return 'accepted';
  }

  return checked(
    context,
    (row) => {
      const found = lookup(row);
      if (isNotFound(found)) return found;
      const { learnerId, courseId, itemId } = found;
      if (row.excused === 'yes') {
        if (!excuse(learnerId, itemId)) return 'duplicate';
        stale.add(learnerId, courseId, context.now);
        return 'accepted';
      }
      const submittedAt = row.submitted_at ? parseInstant(row.submitted_at, context.timezone) : null;
      if (!row.score) return submittedAt === null ? 'duplicate' : handIn(learnerId, courseId, itemId, submittedAt);
      const [score, points] = [Number(row.score), Number(row.points || 0) || null];
      const gradedAt =
        (row.graded_at && parseInstant(row.graded_at, context.timezone)) || (context.madeAt ?? context.now);
      const number = attemptFor(learnerId, itemId, points === null ? null : score / points, gradedAt);
      if (number === null) return 'duplicate';
      const before = prepared(
        raw,
        'SELECT score, points, submitted_at, graded_at FROM attempt WHERE learner_id = ? AND item_id = ? AND number = ?',
      ).get(learnerId, itemId, number) as
        Pick<AttemptRow, 'score' | 'points' | 'submitted_at' | 'graded_at'> | undefined;
      // Next week's gradebook tells the same again: it was graded when it was first told.
      const isTold = before?.score === score && (points === null || before.points === points);
      if (isTold && (submittedAt === null || before.submitted_at !== null)) return 'duplicate';
      const given: GivenAttempt = {
        ...{ learnerId, itemId, number, startedAt: null, submittedAt, score, points },
        ...{ gradedAt: isTold ? before.graded_at : gradedAt, grader: null, feedback: null, source: 'gradebook' },
      };
      if (!store(given)) return 'duplicate';
      stale.add(learnerId, courseId, submittedAt, gradedAt);
      return 'accepted';
    },
    () => stale.flush(),
    () =>
      differing === 0
        ? []
        : [
            `${sayCount(differing, 'score')} ${plural(differing, 'differs', 'differ')} from attempts that are known one by one: those stay.`,
          ],
  );
};
