/** Presence as it comes in live, and settling whom its rows are about. */
import { IsIn, IsNotEmpty, IsOptional, IsString, MaxLength } from 'class-validator';
import { foldName } from '@/core/sessions/match';
import { parseInstant } from '@/core/time/instant';
import { IsInstant, IsOfOurTime } from '@/core/imports/validators';
import { rawTransaction } from '@/data/db';
import { isEnrolled } from '@/data/people/roster';
import { findLearner } from '@/data/people/learners';
import {
  derivePresenceAnew,
  keepAlias,
  openMatcher,
  storePresence,
  type AliasBefore,
  type NewPresence,
} from '@/data/sessions/presence';
import { presenceFault } from '@/data/sessions/take-presence';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { requireRoll } from './rights';

const missing = { message: 'is missing' };
const text = { message: 'is not a text' };

/** One row as a meeting sends it. */
class PresenceInput {
  @IsNotEmpty(missing) @IsString(text) @MaxLength(500, { message: 'is longer than 500 characters' }) person!: string;
  @IsOptional() @IsString(text) @MaxLength(320, { message: 'is longer than 320 characters' }) email?: string;
  @IsNotEmpty(missing) @IsInstant() @IsOfOurTime() entered!: string;
  @IsOptional() @IsInstant() @IsOfOurTime() left?: string;
}

/** Without characters that cannot be seen: a name is what a person reads. */
function visible(text: string): string {
  return text.replaceAll(/\p{Cc}/gu, ' ').trim();
}

/** Rows in one request at most. */
const MOST = 10_000;

export interface PresenceTaken {
  accepted: number;
  duplicate: number;
  unmatched: number;
}

/**
 * Takes rows of presence of one session: all of them, or none where any is wrong. The same person and time again brings
 * a row up to date.
 * @throws InvalidInput naming row and field, NotFound
 */
export async function takePresence(
  { db, zone }: Runtime,
  viewer: Viewer,
  sessionId: string,
  list: unknown,
): Promise<PresenceTaken> {
  const session = await requireRoll({ db }, viewer, sessionId);
  if (!Array.isArray(list)) throw new InvalidInput([{ field: 'body', message: 'is not a list of rows' }]);
  if (list.length > MOST) throw new InvalidInput([{ field: 'body', message: `has more than ${MOST} rows` }]);
  const faults: { field: string; message: string }[] = [];
  const rows = list.flatMap((one: unknown, index): NewPresence[] => {
    try {
      const { person, email, entered, left } = readInput(PresenceInput, Object(one) as Values);
      const row = {
        person: visible(person),
        email: email ?? null,
        entered: parseInstant(entered, zone)!,
        left: left === undefined ? null : parseInstant(left, zone),
      };
      if (row.person === '') faults.push({ field: `${index}.person`, message: 'is missing' });
      const wrong = presenceFault(row, session);
      if (wrong) faults.push({ field: `${index}.${wrong.field}`, message: wrong.reason });
      return [row];
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      faults.push(...error.errors.map(({ field, message }) => ({ field: `${index}.${field}`, message })));
      return [];
    }
  });
  if (faults.length > 0) throw new InvalidInput(faults.slice(0, 100));
  return rawTransaction(db, (raw) => {
    const matcher = openMatcher(raw, session.course_id);
    const taken: PresenceTaken = { accepted: 0, duplicate: 0, unmatched: 0 };
    for (const row of rows) {
      const { result, matched } = storePresence(raw, session.id, row, matcher);
      if (result === 'same') taken.duplicate += 1;
      else taken.accepted += 1;
      if (matched === null) taken.unmatched += 1;
    }
    if (taken.accepted > 0) derivePresenceAnew(raw, [session.id]);
    return taken;
  });
}

export class SettleInput {
  @IsNotEmpty(missing) @IsString(text) @MaxLength(500, { message: 'is too long' }) person!: string;
  /** `learner`, `nobody`, or `forget` to have it open again. */
  @IsIn(['learner', 'nobody', 'forget'], { message: 'is not one of learner, nobody, forget' }) as!: string;
  @IsOptional() @IsString(text) @MaxLength(200, { message: 'is too long' }) learner_id?: string;
}

/**
 * Says whom a name of a session's presence means; remembered in its course, for sessions before and after. Returns what
 * it stood for before, which is its undo.
 * @throws InvalidInput, NotFound
 */
export async function settlePerson(
  { db, clock }: Runtime,
  viewer: Viewer,
  sessionId: string,
  values: Values,
): Promise<AliasBefore | null> {
  const session = await requireRoll({ db }, viewer, sessionId);
  const input = readInput(SettleInput, values);
  // A name that is hidden is not the name there is.
  if (viewer.standInKey !== null || foldName(input.person) === '') throw new NotFound('No such name');
  let learnerId: number | null | undefined = input.as === 'nobody' ? null : undefined;
  if (input.as === 'learner') {
    const found = await findLearner(db, viewer, input.learner_id ?? '');
    const enrolled = found !== null && (await isEnrolled(db, found, session.course_id));
    if (!enrolled) throw new InvalidInput([{ field: 'learner_id', message: 'is nobody of this course' }]);
    learnerId = found;
  }
  return rawTransaction(db, (raw) =>
    keepAlias(raw, {
      courseId: session.course_id,
      person: input.person,
      learnerId,
      staffId: viewer.staffId,
      at: clock.now(),
    }),
  );
}
