/** Follow-ups: what somebody promised to look at again, and what came of it. */
import { settingOn } from '@/core/drift/setting';
import { sayWhole } from '@/core/drift/sentences';
import { IsIn, IsNotEmpty, MaxLength } from 'class-validator';
import {
  FOLLOW_UP_STATES,
  OUTCOME_NAMES,
  followUpState,
  type FollowUpState,
  type Outcome,
  type StoredSnapshot,
} from '@/core/contact/follow-up';
import { dayOf } from '@/core/time/zone';
import { OF_FOLLOW_UPS, addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import { enrolmentsOf } from '@/data/people/enrolments';
import {
  addFollowUps,
  colleaguesOf,
  findFollowUp,
  findFollowUps,
  removeFollowUp,
  updateFollowUp,
  type FollowUpRow,
} from '@/data/contact/follow-ups';
import { keepInScope } from '@/data/people/learners';
import type { ViewScope, Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

export class FollowUpInput {
  @IsNotEmpty({ message: 'is missing' }) @AsDay() due!: number;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(300, { message: 'is longer than 300 characters' }) reason!: string;
}

class DueInput {
  @IsNotEmpty({ message: 'is missing' }) @AsDay() due!: number;
}

class OutcomeInput {
  @IsIn(OUTCOME_NAMES, { message: `is not one of ${OUTCOME_NAMES.join(', ')}` }) outcome!: Outcome;
}

/** Follow-ups on one page. */
export const FOLLOW_UP_PAGE = 100;
/** Open ones looked through at most: far more than anybody keeps. */
const MOST = 20_000;

/** What drift says of some learners now in every course, to be kept with what was promised about them. */
async function snapshotsOf(db: Db, view: DriftView, ids: readonly number[]): Promise<Map<number, StoredSnapshot>> {
  // Kept whole, whoever makes it: each reader is shown what is theirs to see of it.
  const { edges } = settingOn(view.settings, view.readingDay);
  const enrolments = await enrolmentsOf(
    db,
    { ...view, segment: {}, viewer: { ...view.viewer, all: true } },
    ids,
    'active',
  );
  const snapshots = new Map<number, StoredSnapshot>(ids.map((id) => [id, { courses: [], edges }]));
  for (const { learner_id, course_id: courseId, score, band, explanation } of enrolments) {
    const says = explanation.reasons.filter((reason) => reason.points > 0).map((reason) => sayWhole(reason.says));
    snapshots.get(learner_id)!.courses.push({ courseId, score, band, says });
  }
  return snapshots;
}

/** Makes follow-ups on learners the viewer sees, their own or a colleague's, in the caller's transaction. Returns their ids. */
export async function makeFollowUps(
  { clock }: Pick<Runtime, 'clock'>,
  trx: Db,
  view: DriftView,
  learnerIds: readonly number[],
  { dueDay, reason, draftId, ownerId }: { dueDay: number; reason: string; draftId?: number; ownerId?: number },
): Promise<number[]> {
  const snapshots = await snapshotsOf(trx, view, learnerIds);
  const { staffId } = view.viewer;
  return addFollowUps(
    trx,
    learnerIds.map((learner_id) => ({
      learner_id,
      owner_id: ownerId ?? staffId,
      made_by: staffId,
      created_at: clock.now(),
      due_day: dueDay,
      reason,
      snapshot: snapshots.get(learner_id) ?? { courses: [] },
      ...(draftId === undefined ? {} : { draft_id: draftId }),
    })),
  );
}

/** @throws InvalidInput, NotFound */
export async function promise(
  runtime: Runtime,
  view: DriftView,
  learnerIds: readonly number[],
  values: Values,
): Promise<number[]> {
  const input = readInput(FollowUpInput, values);
  const dueDay = dayToCome(runtime, input.due, 'due');
  const mine = await keepInScope(runtime.db, view.viewer, learnerIds);
  if (mine.length === 0) throw new NotFound('Nobody to follow up');
  return writing(runtime.db, (trx) => makeFollowUps(runtime, trx, view, mine, { dueDay, reason: input.reason }));
}

/** The day, where it is not past. @throws InvalidInput naming the field */
export function dayToCome({ clock, zone }: Pick<Runtime, 'clock' | 'zone'>, day: number, field: string): number {
  if (day < dayOf(clock.now(), zone)) throw new InvalidInput([{ field, message: 'lies before today' }]);
  return day;
}

export interface FollowUpShown extends FollowUpRow {
  state: FollowUpState;
}

export interface FollowUpList {
  /** One page of those in the state asked for. */
  rows: FollowUpShown[];
  counts: Record<FollowUpState, number>;
  /** How many are in that state, and how many are open in all. */
  listed: number;
  total: number;
  page: number;
  pages: number;
}

export interface FollowUpRequest {
  whose: 'mine' | 'all';
  state: FollowUpState | null;
  page: number;
}

/** Open follow-ups of the viewer's own, or of everybody on learners they see: what asks for a word comes first. */
export async function openFollowUps(
  { db, clock, zone }: Runtime,
  looking: ViewScope,
  { whose, state, page }: FollowUpRequest,
): Promise<FollowUpList> {
  const today = dayOf(clock.now(), zone);
  const ownerId = whose === 'mine' ? looking.viewer.staffId : undefined;
  const all = (await findFollowUps(db, looking, { ownerId, state: 'open', limit: MOST })).map((row) => ({
    ...row,
    state: followUpState(
      {
        dueDay: row.due_day,
        createdAt: row.created_at,
        firstAfter: row.first_after,
        attemptAt: row.attempt_at,
        answerAt: row.answer_at,
      },
      today,
    ),
  }));
  const counts = Object.fromEntries(FOLLOW_UP_STATES.map((state) => [state, 0])) as FollowUpList['counts'];
  for (const row of all) counts[row.state] += 1;
  const place = (row: FollowUpShown) => FOLLOW_UP_STATES.indexOf(row.state);
  const listed = all
    .filter((row) => state === null || row.state === state)
    .sort((a, b) => place(a) - place(b) || a.due_day - b.due_day || a.id - b.id);
  const pages = Math.max(1, Math.ceil(listed.length / FOLLOW_UP_PAGE));
  const shown = Math.min(Math.max(1, page), pages);
  const rows = listed.slice((shown - 1) * FOLLOW_UP_PAGE, shown * FOLLOW_UP_PAGE);
  return { rows, counts, listed: listed.length, total: all.length, page: shown, pages };
}

async function requireOpen(trx: Db, viewer: Viewer, id: number) {
  const found = await findFollowUp(trx, viewer, id);
  if (!found || found.closed_at !== null) throw new NotFound('No such open follow-up');
  return found;
}

/** Ends a follow-up with what came of it. @throws InvalidInput, NotFound */
export async function closeFollowUp({ db, clock }: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const { outcome } = readInput(OutcomeInput, values);
  await writing(db, async (trx) => {
    await requireOpen(trx, viewer, id);
    await updateFollowUp(trx, id, { closed_at: clock.now(), outcome, closed_by: viewer.staffId });
  });
}

/** Opens a closed one again: the undo of closing. @throws NotFound */
export async function reopenFollowUp({ db }: Runtime, viewer: Viewer, id: number): Promise<void> {
  await writing(db, async (trx) => {
    const found = await findFollowUp(trx, viewer, id);
    if (!found || found.closed_at === null) throw new NotFound('No such closed follow-up');
    await updateFollowUp(trx, id, { closed_at: null, outcome: null, closed_by: null });
  });
}

/** Moves the day of a follow-up. @throws InvalidInput, NotFound */
export async function moveFollowUp(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const dueDay = dayToCome(runtime, readInput(DueInput, values).due, 'due');
  await writing(runtime.db, async (trx) => {
    await requireOpen(trx, viewer, id);
    await updateFollowUp(trx, id, { due_day: dueDay });
  });
}

/** Gives a follow-up to a colleague who sees the learner too. @throws NotFound */
export async function handOver({ db, clock }: Runtime, viewer: Viewer, id: number, toId: number): Promise<void> {
  await writing(db, async (trx) => {
    const found = await requireOpen(trx, viewer, id);
    const colleagues = await colleaguesOf(trx, { ...viewer, standInKey: null }, [found.learner_id]);
    const to = colleagues.find((colleague) => colleague.id === toId);
    if (!to) throw new NotFound('No colleague who sees this learner');
    await updateFollowUp(trx, id, { owner_id: toId });
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      learner_id: found.learner_id,
      what: OF_FOLLOW_UPS,
      subject: `to ${to.name}`,
    });
  });
}

/** Takes back a follow-up that the viewer made: the undo of making it. @throws NotFound */
export async function takeBackFollowUp({ db }: Runtime, viewer: Viewer, id: number): Promise<void> {
  await writing(db, async (trx) => {
    const found = await requireOpen(trx, viewer, id);
    if (found.made_by !== viewer.staffId) throw new NotFound('No such follow-up of yours');
    await removeFollowUp(trx, id);
  });
}
