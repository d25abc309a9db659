/** Marking items done or exempt, extensions and excusals: for one or for many, with a reason and an undo. */
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { groupBy } from '@/core/group-by';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { setCompletionOverride } from '@/data/completion/overrides';
import { withRaw, rawTransaction, type RawConnection } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { setExtension } from '@/data/work/extensions';
import { StaleWork } from '@/data/work/stale-work';
import { nextBatch, pairsOfBatch, undoBatch } from '@/data/work/work-changes';
import { AsInstant, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { pairsInScope, type PairInScope } from './pairs';
import { titlesOf } from '@/data/courses/items';
import { auditAdder } from '@/data/audit';

const missing = { message: 'is missing' };
const long = { message: 'is longer than 1,000 characters' };

const COMPLETION_STATES = ['done', 'exempt', 'clear'] as const;
type CompletionState = (typeof COMPLETION_STATES)[number];

export class CompletionInput {
  @IsIn(COMPLETION_STATES, { message: `is not one of ${COMPLETION_STATES.join(', ')}` }) state!: CompletionState;
  @IsNotEmpty(missing) @MaxLength(1000, long) reason!: string;
}

export class ExtensionInput {
  @IsOptional() @AsInstant() due_at?: number;
  @IsOptional() @IsIn(['yes', 'no', 'none'], { message: 'is not one of yes, no, none' }) excused?: string;
  @IsNotEmpty(missing) @MaxLength(1000, long) reason!: string;
}

/** What each deed is called in the list of changes. */
const MARKED: Record<CompletionState, string> = {
  done: 'marked done',
  exempt: 'marked exempt',
  clear: 'cleared the mark of',
};
const EXTENDED = { no: 'extended', yes: 'excused from', none: 'took back the extension of' } as const;

/** What a deed changed: a number to undo it by, and how many cells. */
export interface ItemsChange {
  batch: number;
  changed: number;
}

/** A deed as the list of changes has it. */
interface ChangeNote {
  staffId: number | null;
  what: string;
  reason: string;
}

/** Items named in one line of changes at most. */
const NAMED = 5;

/** Tells each learner's story of it: a line a learner, however many items. */
function noteChange(
  raw: RawConnection,
  { staffId, what, reason }: ChangeNote,
  at: number,
  done: readonly PairInScope[],
): void {
  const titles = titlesOf(raw, [...new Set(done.map(({ itemId }) => itemId))]);
  const add = auditAdder(raw);
  for (const [learnerId, own] of groupBy(done, (pair) => pair.learnerId)) {
    const names = own.slice(0, NAMED).map(({ itemId }) => titles.get(itemId)!);
    const more = own.length > NAMED ? ` and ${own.length - NAMED} more` : '';
    add({
      at,
      staff_id: staffId,
      learner_id: learnerId,
      course_id: own[0].courseId,
      what,
      subject: `${names.join(', ')}${more}: ${reason}`,
    });
  }
}

function doing(
  { zone }: Pick<Runtime, 'zone'>,
  raw: RawConnection,
  pairs: readonly PairInScope[],
  now: number,
  deed: ChangeNote,
  work: (batch: number, pair: PairInScope) => boolean,
): ItemsChange {
  const batch = nextBatch(raw);
  const stale = new StaleWork(raw, zone);
  const done = pairs.filter((pair) => work(batch, pair));
  for (const { learnerId, courseId } of done) stale.add(learnerId, courseId, now);
  stale.flush();
  if (deed.staffId !== null) noteChange(raw, deed, now, done);
  return { batch, changed: done.length };
}

/** Marks items done or exempt for learners, or clears such marks. @throws InvalidInput, NotFound */
export async function overrideItems(
  runtime: Runtime,
  viewer: Viewer,
  pairs: unknown,
  values: Values,
): Promise<ItemsChange> {
  const { state, reason } = readInput(CompletionInput, values);
  const { db, clock } = runtime;
  const mine = await pairsInScope(db, viewer, pairs);
  const now = clock.now();
  const staffId = viewer.staffId || null;
  return rawTransaction(db, (raw) =>
    doing(runtime, raw, mine, now, { staffId, what: MARKED[state], reason }, (batch, { learnerId, itemId }) =>
      setCompletionOverride(
        raw,
        batch,
        { learnerId, itemId, staffId, at: now, reason },
        state === 'clear' ? null : state,
      ),
    ),
  );
}

/** Gives learners a later date for items, excuses them, or takes either back. @throws InvalidInput, NotFound */
export async function extendItems(
  runtime: Runtime,
  viewer: Viewer,
  pairs: unknown,
  values: Values,
): Promise<ItemsChange> {
  const { due_at: dueAt = null, excused = 'no', reason } = readInput(ExtensionInput, values, runtime.zone);
  const { db, clock, zone } = runtime;
  const mine = await pairsInScope(db, viewer, pairs);
  const now = clock.now();
  if (excused === 'no' && dueAt === null)
    throw new InvalidInput([{ field: 'due_at', message: 'is missing: give a date, or excuse them' }]);
  const latest = Math.max(...mine.map((pair) => pair.dueAt ?? -Infinity));
  if (excused === 'no' && dueAt! < latest) {
    const due = sayDay(dayOf(latest, zone), dayOf(now, zone));
    throw new InvalidInput([
      { field: 'due_at', message: `lies before the item’s own due date, ${due}: an extension makes it later` },
    ]);
  }
  const staffId = viewer.staffId || null;
  const next =
    excused === 'none'
      ? null
      : { dueAt: excused === 'yes' ? null : dueAt, isExcused: excused === 'yes', source: 'hand' as const };
  return rawTransaction(db, (raw) =>
    doing(
      runtime,
      raw,
      mine,
      now,
      { staffId, what: EXTENDED[excused as keyof typeof EXTENDED], reason },
      (batch, { learnerId, itemId }) => setExtension(raw, batch, { learnerId, itemId, staffId, at: now, reason }, next),
    ),
  );
}

/** Undoes a deed of one's own, where what it set still stands. @throws NotFound */
export async function undoChange(runtime: Runtime, viewer: Viewer, batch: number): Promise<void> {
  const { db, clock, zone } = runtime;
  const pairs = await withRaw(db, (raw) => pairsOfBatch(raw, batch, viewer.staffId || null));
  if (pairs.length === 0) throw new NotFound('Nothing to undo');
  // What one may no longer do one may no longer undo.
  const mine = await pairsInScope(db, viewer, pairs);
  if (mine.length < pairs.length) throw new NotFound('Some of it is no longer yours to change, so nothing was undone');
  await rawTransaction(db, (raw) => {
    const undone = undoBatch(raw, batch, viewer.staffId || null, clock.now());
    if (undone === null) throw new NotFound('Nothing to undo');
    if (undone.length === 0) throw new NotFound('Somebody has changed it since, so nothing was undone');
    const stale = new StaleWork(raw, zone);
    const courseOf = raw.prepare('SELECT course_id FROM item WHERE id = ?').pluck();
    for (const { learner_id, item_id, at } of undone) stale.add(learner_id, courseOf.get(item_id) as number, at);
    stale.flush();
  });
}
