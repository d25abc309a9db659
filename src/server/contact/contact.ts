/** Calls and notes: what is put on record about a learner. */
import { IsArray, IsIn, IsNotEmpty, IsOptional, IsString, MaxLength } from 'class-validator';
import { CALL_OUTCOMES, CALL_OUTCOME_NAMES, type CallOutcome } from '@/core/contact/call';
import { addAudit } from '@/data/audit';
import { addCall, removeCall } from '@/data/contact/contacts';
import { isStaffMember } from '@/core/staff/rights';
import { writing } from '@/data/db';
import { keepInScope } from '@/data/people/learners';
import {
  AUDIENCES,
  addLabel,
  addNote,
  endNote,
  labelIds,
  listLabels,
  removeLabel,
  renameLabel,
  type Audience,
  pinNote as storePin,
} from '@/data/contact/notes';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { dayToCome, makeFollowUps, takeBackFollowUp } from './follow-ups';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';

const long = (most: number) => ({ message: `is longer than ${most} characters` });
const missing = { message: 'is missing' };

export class CallInput {
  @IsIn(CALL_OUTCOME_NAMES, { message: `is not one of ${CALL_OUTCOME_NAMES.join(', ')}` }) outcome!: CallOutcome;
  @IsOptional() @MaxLength(2000, long(2000)) remark?: string;
  /** The day of the follow-up. */
  @IsOptional() @AsDay() next?: number;
}

export class NoteInput {
  @IsNotEmpty(missing) @MaxLength(10_000, long(10_000)) body!: string;
  @IsOptional() @IsIn(AUDIENCES, { message: `is not one of ${AUDIENCES.join(', ')}` }) audience?: Audience;
  @IsOptional()
  @IsArray({ message: 'is not a list' })
  @IsString({ each: true, message: 'are not names' })
  labels?: string[];
}

class LabelInput {
  @IsNotEmpty(missing) @MaxLength(40, long(40)) name!: string;
}

async function requireLearner(runtime: Runtime, viewer: Viewer, learnerId: number): Promise<void> {
  if ((await keepInScope(runtime.db, viewer, [learnerId])).length === 0) throw new NotFound('No such learner');
}

export interface LoggedCall {
  call: number;
  followUp: number | null;
}

/** Puts a call on record, with a follow-up where a next day is given. @throws InvalidInput, NotFound */
export async function logCall(
  runtime: Runtime,
  view: DriftView,
  learnerId: number,
  values: Values,
): Promise<LoggedCall> {
  const { outcome, remark, next } = readInput(CallInput, values);
  const dueDay = next !== undefined ? dayToCome(runtime, next, 'next') : null;
  await requireLearner(runtime, view.viewer, learnerId);
  const { staffId } = view.viewer;
  return writing(runtime.db, async (trx) => {
    const at = runtime.clock.now();
    const call = await addCall(trx, { learner_id: learnerId, staff_id: staffId, at, outcome, remark: remark ?? '' });
    if (dueDay === null) return { call, followUp: null };
    const reason = `${outcome === 'met' ? 'Met in person' : `Called: ${CALL_OUTCOMES[outcome].says}`}${remark ? ` · ${remark.slice(0, 200)}` : ''}`;
    const [followUp] = await makeFollowUps(runtime, trx, view, [learnerId], { dueDay, reason });
    return { call, followUp };
  });
}

/** Takes a call of the viewer's own back, with the follow-up made with it. @throws NotFound */
export async function takeBackCall(runtime: Runtime, viewer: Viewer, logged: LoggedCall): Promise<void> {
  if (!(await removeCall(runtime.db, viewer.staffId, logged.call))) throw new NotFound('No such call of yours');
  if (logged.followUp !== null) await takeBackFollowUp(runtime, viewer, logged.followUp);
}

/** Keeps a note on a learner. Returns its id. @throws InvalidInput, NotFound */
export async function saveNote(runtime: Runtime, viewer: Viewer, learnerId: number, values: Values): Promise<number> {
  const { body, audience, labels } = readInput(NoteInput, values);
  await requireLearner(runtime, viewer, learnerId);
  return writing(runtime.db, async (trx) => {
    const ids = await labelIds(trx, labels ?? []);
    if (ids.length < new Set(labels).size)
      throw new InvalidInput([{ field: 'labels', message: 'name one that is gone' }]);
    const note = { learner_id: learnerId, staff_id: viewer.staffId, at: runtime.clock.now(), body };
    return addNote(trx, { ...note, audience: audience ?? 'staff' }, ids);
  });
}

/** Takes a note of the viewer's own away, or puts it back. @throws NotFound */
export async function removeNote(runtime: Runtime, viewer: Viewer, id: number, removed: boolean): Promise<void> {
  if (!(await endNote(runtime.db, viewer.staffId, id, removed ? runtime.clock.now() : null)))
    throw new NotFound('No such note of yours');
}

/** Pins a note, so that the next mentor reads it first, or takes the pin away. @throws NotFound */
export async function pinNote(runtime: Runtime, viewer: Viewer, id: number, pinned: boolean): Promise<void> {
  if (!isStaffMember(viewer) || !(await storePin(runtime.db, viewer, id, pinned ? runtime.clock.now() : null)))
    throw new NotFound('No such note');
}

/** Adds, renames or takes away a label; leads alone. @throws InvalidInput, NotFound */
export async function changeLabels(
  { db, clock }: Runtime,
  viewer: Viewer,
  change: { add: string } | { id: number; name: string } | { remove: number },
): Promise<void> {
  requireLead(viewer);
  await writing(db, async (trx) => {
    const labels = await listLabels(trx);
    const audit = (what: string, subject: string) =>
      addAudit(trx, { at: clock.now(), staff_id: viewer.staffId, what, subject });
    if ('remove' in change) {
      const label = labels.find((label) => label.id === change.remove);
      if (!label) throw new NotFound('No such label');
      const carried = await removeLabel(trx, label.id);
      return audit('removed a label', `${label.name}, on ${carried} notes`);
    }
    const { name } = readInput(LabelInput, { name: 'add' in change ? change.add : change.name });
    const changedId = 'id' in change ? change.id : null;
    if (labels.some((label) => label.id !== changedId && label.name.toLowerCase() === name.toLowerCase())) {
      throw new InvalidInput([{ field: 'name', message: 'is a label already' }]);
    }
    if (changedId === null) {
      await addLabel(trx, name);
      return audit('added a label', name);
    }
    const label = labels.find((label) => label.id === changedId);
    if (!label) throw new NotFound('No such label');
    await renameLabel(trx, changedId, name);
    return audit('renamed a label', `${label.name} to ${name}`);
  });
}
