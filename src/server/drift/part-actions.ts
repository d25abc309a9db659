/** What one does about a whole part of the Watch: hand it over, or settle that somebody has left. */
import { IsNotEmpty, Matches, MaxLength } from 'class-validator';
import { OF_FOLLOW_UPS, addAudits } from '@/data/audit';
import { colleaguesOf } from '@/data/contact/follow-ups';
import { writing } from '@/data/db';
import { keepInScope } from '@/data/people/learners';
import { activeEnrolmentIds } from '@/data/people/roster';
import type { DriftView } from '@/data/view';
import { dayToCome, makeFollowUps } from '../contact/follow-ups';
import { endEnrolments } from '../people/roster';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

export class HandOverInput {
  @Matches(/^\d{1,15}$/, { message: 'is nobody who can be asked' }) to!: string;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(300, { message: 'is longer than 300 characters' }) reason!: string;
  @AsDay() due!: number;
}

/** Staff to whom all of some learners may be handed over. */
export async function whoTakes({ db }: Runtime, view: DriftView, learnerIds: readonly number[]) {
  return colleaguesOf(db, view.viewer, await keepInScope(db, view.viewer, learnerIds));
}

/**
 * Gives learners to a colleague who sees them all: a follow-up of theirs on each, for a day. Returns the follow-ups.
 * @throws InvalidInput, NotFound
 */
export async function handOverLearners(
  runtime: Runtime,
  view: DriftView,
  learnerIds: readonly number[],
  values: Values,
): Promise<number[]> {
  const { to, reason, due } = readInput(HandOverInput, values);
  const dueDay = dayToCome(runtime, due, 'due');
  const { viewer } = view;
  const mine = await keepInScope(runtime.db, viewer, learnerIds);
  if (mine.length === 0) throw new NotFound('Nobody to hand over');
  return writing(runtime.db, async (trx) => {
    const colleague = (await colleaguesOf(trx, { ...viewer, standInKey: null }, mine)).find(
      ({ id }) => id === Number(to),
    );
    if (!colleague) throw new InvalidInput([{ field: 'to', message: 'does not see all of these learners' }]);
    const made = await makeFollowUps(runtime, trx, view, mine, { dueDay, reason, ownerId: colleague.id });
    await addAudits(
      trx,
      mine.map((learner_id) => ({
        at: runtime.clock.now(),
        staff_id: viewer.staffId,
        learner_id,
        what: OF_FOLLOW_UPS,
        subject: `to ${colleague.name}`,
      })),
    );
    return made;
  });
}

/**
 * Settles that learners have left: their active enrolments in view end as withdrawn, today. Returns the enrolments, so
 * that they can be resumed.
 * @throws InvalidInput, NotFound, Forbidden for all but leads
 */
export async function settleLeft(runtime: Runtime, view: DriftView, learnerIds: readonly number[]): Promise<number[]> {
  const ids = await activeEnrolmentIds(runtime.db, view, learnerIds);
  return endEnrolments(runtime, view.viewer, ids, { status: 'withdrawn' });
}
