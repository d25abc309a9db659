/** Grading by hand. */
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { IsAttempt, IsNumeral, NotNegative } from '@/core/imports/validators';
import { addAudit } from '@/data/audit';
import { writing, rawTransaction, type RawConnection } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { dismiss, setScore, storeSettledScore, type AttemptKey } from '@/data/work/grading';
import { isWithoutResults } from '@/data/work/has-results';
import { StaleWork, staleCourseWork } from '@/data/work/stale-work';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { pairsInScope } from '../work/pairs';
import { itemWorth } from '@/data/courses/items';

const missing = { message: 'is missing' };
const long = { message: 'is longer than 1,000 characters' };

export class ScoreInput {
  @IsNotEmpty(missing) @IsNumeral() @NotNegative() score!: string;
  @IsOptional() @IsNumeral() @NotNegative() points?: string;
  @IsOptional() @IsAttempt() attempt?: string;
  @IsOptional() @MaxLength(20_000, { message: 'is longer than 20,000 characters' }) feedback?: string;
  @IsNotEmpty(missing) @MaxLength(1000, long) why!: string;
}

export class DismissInput {
  @IsNotEmpty(missing) @IsAttempt() attempt!: string;
  @IsNotEmpty(missing) @MaxLength(1000, long) why!: string;
}

/** The learner's item that is graded, of the viewer's own. @throws NotFound */
async function requirePair({ db }: Pick<Runtime, 'db'>, viewer: Viewer, learnerId: unknown, itemId: unknown) {
  const [pair] = await pairsInScope(db, viewer, [[learnerId, itemId]]);
  return pair;
}

async function grading<T>(
  runtime: Runtime,
  pair: { learnerId: number; itemId: number; courseId: number },
  work: (raw: RawConnection) => T,
): Promise<T> {
  const { db, zone } = runtime;
  return rawTransaction(db, (raw) => {
    const isFirst = isWithoutResults(raw, pair.courseId);
    const done = work(raw);
    const stale = new StaleWork(raw, zone);
    // What is dismissed may have counted from the beginning.
    stale.add(pair.learnerId, pair.courseId);
    stale.flush();
    if (isFirst) staleCourseWork(raw, [pair.courseId]);
    return done;
  });
}

/** Gives a score by hand: for work on paper, by telephone, or over what a file said. @throws InvalidInput, NotFound */
export async function scoreByHand(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: unknown,
  itemId: unknown,
  values: Values,
): Promise<void> {
  const input = readInput(ScoreInput, values);
  const pair = await requirePair(runtime, viewer, learnerId, itemId);
  const { db, clock } = runtime;
  const item = await itemWorth(db, pair.itemId);
  const points = input.points === undefined ? null : Number(input.points);
  if ((points ?? item.points ?? 0) <= 0)
    throw new InvalidInput([{ field: 'points', message: 'is missing: the item has none of its own' }]);
  const key: AttemptKey = { ...pair, number: Number(input.attempt ?? 1) };
  const at = clock.now();
  await grading(runtime, pair, (raw) =>
    setScore(raw, key, {
      score: Number(input.score),
      points: points ?? item.points,
      feedback: input.feedback ?? null,
      why: input.why,
      staffId: viewer.staffId || null,
      at,
    }),
  );
  await writing(db, (trx) =>
    addAudit(trx, {
      at,
      staff_id: viewer.staffId,
      learner_id: pair.learnerId,
      course_id: pair.courseId,
      what: 'gave a score',
      subject: `${item.title}: ${input.score}`,
    }),
  );
}

/** Dismisses an attempt, so that it counts for nothing, or takes it back. @throws InvalidInput, NotFound */
export async function dismissAttempt(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: unknown,
  itemId: unknown,
  isDismissed: boolean,
  values: Values,
): Promise<void> {
  const { attempt, why } = readInput(DismissInput, values);
  const pair = await requirePair(runtime, viewer, learnerId, itemId);
  const done = await grading(runtime, pair, (raw) =>
    dismiss(raw, { ...pair, number: Number(attempt) }, isDismissed, {
      why,
      staffId: viewer.staffId || null,
      at: runtime.clock.now(),
    }),
  );
  if (!done) throw new NotFound('No such attempt');
}

/** Settles a score that a file has otherwise. @throws NotFound */
export async function settleScore(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: unknown,
  itemId: unknown,
  number: number,
  take: 'ours' | 'theirs',
): Promise<void> {
  const pair = await requirePair(runtime, viewer, learnerId, itemId);
  const done = await grading(runtime, pair, (raw) =>
    storeSettledScore(raw, { ...pair, number }, take, { staffId: viewer.staffId || null, at: runtime.clock.now() }),
  );
  if (!done) throw new NotFound('Nothing to settle');
}
