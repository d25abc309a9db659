/** Taking a roll: marks as they are given, from one device or from several. */
import { IsArray, IsIn, IsInt, IsOptional, IsString, Max, MaxLength, Min } from 'class-validator';
import type { MarkSource } from '@/core/sessions/attendance';
import { withRaw, rawTransaction, type Db } from '@/data/db';
import { findLearner, namesOf } from '@/data/people/learners';
import { rollOf } from '@/data/sessions/attendance';
import { dropDifference, findMark, lastChanges, listMarks, noteNoRoll, noteRoll, setMark } from '@/data/sessions/marks';
import { staleMark } from '@/data/sessions/stale-sessions';
import type { Viewer } from '@/data/scope';
import { InvalidInput, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { requireRoll } from './rights';

const text = { message: 'is not a text' };

/** One mark that is given. */
class MarkInput {
  @IsString(text) @MaxLength(200, { message: 'is too long' }) learner_id!: string;
  /** The mark's code; left out to take it away. */
  @IsOptional() @IsString(text) @MaxLength(50, { message: 'is too long' }) mark?: string;
  @IsOptional() @IsString(text) @MaxLength(1000, { message: 'is longer than 1000 characters' }) remark?: string;
  /** The number of the change that was last seen of it; 0 for none. */
  @IsInt({ message: 'is not a number' }) @Min(0) @Max(Number.MAX_SAFE_INTEGER) seen!: number;
  @IsOptional() @IsIn(['hand', 'suggested'], { message: 'is not one of hand, suggested' }) source?: MarkSource;
}

class RollInput {
  @IsArray({ message: 'is not a list' }) marks!: unknown[];
  /** Marks that a colleague has given meanwhile are replaced: somebody has seen both and chosen. */
  @IsOptional() @IsIn([true, false], { message: 'is not true or false' }) replace?: boolean;
}

/** Marks in one request at most: more than any class. */
const MOST = 5000;

/** A mark that a colleague has given since it was seen. */
export interface RollConflict {
  learner_id: string;
  mark: string | null;
  remark: string;
  change: number;
  by: string | null;
  at: number;
}

export interface RollAnswer {
  /** The number of each learner's last change, by the learner's id: of those that were taken. */
  changes: Record<string, number>;
  conflicts: RollConflict[];
  /** Those that could not be taken, each with why: the others were. */
  refused: { learner_id: string; says: string }[];
}

function readMarks(list: readonly unknown[]): MarkInput[] {
  if (list.length > MOST) throw new InvalidInput([{ field: 'marks', message: `are more than ${MOST}` }]);
  return list.map((one, index) => {
    try {
      return readInput(MarkInput, Object(one) as Values);
    } catch (error) {
      if (!(error instanceof InvalidInput)) throw error;
      throw new InvalidInput(error.errors.map(({ field, message }) => ({ field: `marks.${index}.${field}`, message })));
    }
  });
}

/**
 * Gives marks to learners of a session. One that was changed since it was seen, by whomever and from whichever device, is not
 * overwritten: it comes back as a conflict, and both are shown. One of somebody who is no longer of this session is refused by
 * itself; a record that was merged meanwhile is the one it was merged into. All others are taken. Taking the same mark twice changes nothing, so that
 * whoever is not sure whether marks arrived sends them again.
 * @throws InvalidInput, NotFound
 */
export async function giveMarks(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  values: Values,
): Promise<RollAnswer> {
  const { db, clock } = runtime;
  const session = await requireRoll({ db }, viewer, sessionId);
  const { marks: list, replace = false } = readInput(RollInput, values);
  const wanted = readMarks(list);
  const [roll, kinds] = await Promise.all([rollOf(db, { viewer, segment: {} }, session.id), listMarks(db)]);
  const people = new Map(roll.map((row) => [row.learner_id, row.id]));
  const codes = kinds.map(({ code }) => code);
  const refused: RollAnswer['refused'] = [];
  const takeable: (MarkInput & { id: number })[] = [];
  for (const one of wanted) {
    const { learner_id, mark } = one;
    const id = people.get(learner_id) ?? people.get((await keptRecordId(db, viewer, learner_id)) ?? '');
    if (id === undefined) refused.push({ learner_id, says: `${learner_id} is nobody of this session any more.` });
    else if (mark !== undefined && !codes.includes(mark))
      refused.push({ learner_id, says: `${mark} is no mark any more: there are ${codes.join(', ')}.` });
    else takeable.push({ ...one, id });
  }
  if (session.cancelled) throw new InvalidInput([{ field: 'session', message: 'is cancelled: it has no roll' }]);
  const now = clock.now();
  const staffId = viewer.staffId || null;
  const taken = await rawTransaction(db, (raw) => {
    const before = lastChanges(raw, session.id);
    const conflicts: { id: number; learner_id: string }[] = [];
    for (const { id, learner_id, mark = null, remark, seen, source = 'hand' } of takeable) {
      const stored = findMark(raw, session.id, id);
      const words = remark ?? stored?.remark ?? '';
      const isSame = (stored?.mark ?? null) === mark && (stored?.remark ?? '') === words;
      // Whoever wrote it: another device of one's own is as little to be overwritten as a colleague.
      if (!isSame && !replace && (before.get(id) ?? 0) !== seen) {
        conflicts.push({ id, learner_id });
        continue;
      }
      const next = { session_id: session.id, learner_id: id, mark, remark: words, source, staff_id: staffId, at: now };
      if (setMark(raw, next)) staleMark(raw, session.id, id);
    }
    if (takeable.length > conflicts.length) noteRoll(raw, session.id, now, staffId);
    const after = lastChanges(raw, session.id);
    const changes = Object.fromEntries(takeable.map(({ id, learner_id }) => [learner_id, after.get(id) ?? 0]));
    return { changes, conflicts };
  });
  return {
    changes: taken.changes,
    conflicts: await asConflicts(runtime, viewer, session.id, taken.conflicts),
    refused,
  };
}

/** The id of the record that one was merged into, as the viewer sees it; null for one that was not. */
async function keptRecordId(db: Db, viewer: Viewer, learnerId: string): Promise<string | null> {
  const found = await findLearner(db, viewer, learnerId);
  if (found === null) return null;
  const [row] = await namesOf(db, viewer, [found]);
  return row?.learner_id ?? null;
}

/** What colleagues have given, as the roll has it now. */
async function asConflicts(
  { db }: Runtime,
  viewer: Viewer,
  sessionId: number,
  found: readonly { id: number; learner_id: string }[],
): Promise<RollConflict[]> {
  if (found.length === 0) return [];
  // Under the id that was sent, whatever it was merged into.
  const ids = new Map(found.map(({ id, learner_id }) => [id, learner_id]));
  const [roll, changes] = await Promise.all([
    rollOf(db, { viewer, segment: {} }, sessionId),
    withRaw(db, (raw) => lastChanges(raw, sessionId)),
  ]);
  return roll
    .filter(({ id }) => ids.has(id))
    .map(({ id, mark, remark, marked_by, marked_at }) => ({
      learner_id: ids.get(id)!,
      mark,
      remark,
      change: changes.get(id) ?? 0,
      by: marked_by,
      at: marked_at ?? 0,
    }));
}

/**
 * Takes a session's roll back: nobody has a mark, and it counts for nobody. Every mark stays in the history.
 * @throws NotFound
 */
export async function takeRollBack({ db, clock }: Runtime, viewer: Viewer, sessionId: string): Promise<void> {
  const session = await requireRoll({ db }, viewer, sessionId);
  const roll = await rollOf(db, { viewer, segment: {} }, session.id);
  await rawTransaction(db, (raw) => {
    for (const { id, mark } of roll) {
      if (mark === null) continue;
      setMark(raw, {
        session_id: session.id,
        learner_id: id,
        mark: null,
        remark: '',
        source: 'hand',
        staff_id: viewer.staffId || null,
        at: clock.now(),
      });
      staleMark(raw, session.id, id);
    }
    noteNoRoll(raw, session.id);
  });
}

/** Settles a mark that was set by hand and that a later file has otherwise: keeps it, or takes the file's. @throws NotFound */
export async function settleDifference(
  { db, clock }: Runtime,
  viewer: Viewer,
  sessionId: string,
  learnerId: string,
  take: 'ours' | 'theirs',
): Promise<void> {
  const session = await requireRoll({ db }, viewer, sessionId);
  const one = (await rollOf(db, { viewer, segment: {} }, session.id)).find((row) => row.learner_id === learnerId);
  if (!one) throw new InvalidInput([{ field: 'learner_id', message: 'is nobody of this session' }]);
  await rawTransaction(db, (raw) => {
    const stored = findMark(raw, session.id, one.id);
    if (!stored || stored.differs === null) return;
    if (take === 'theirs') {
      setMark(raw, {
        ...stored,
        mark: stored.differs,
        source: 'hand',
        staff_id: viewer.staffId || null,
        at: clock.now(),
      });
      staleMark(raw, session.id, one.id);
    } else dropDifference(raw, stored.id);
  });
}
