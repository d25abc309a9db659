/** Writing to learners: a draft to one or many, each with their own facts, then the outbox. */
import { randomUUID } from 'node:crypto';
import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { daysQuiet } from '@/core/access/last-access';
import { RECENT_CONTACT_DAYS } from '@/core/drift/order';
import { whatStops, type Recipient } from '@/core/followup/recipient';
import { fill, unknownFields } from '@/core/followup/template';
import { sayDay } from '@/core/time/words';
import { DAY, dayOf } from '@/core/time/zone';
import { writing, type Db } from '@/data/db';
import { enrolmentsOf, keepInScope, learnersById, type View } from '@/data/learners';
import {
  addDraft,
  closeDraft,
  contactedSince,
  draftRecipients,
  findDraft,
  findMessage,
  moveMessage,
  queueMessages,
  removeRecipient,
  reopenDraft,
  saveDraft,
  type DraftRow,
} from '@/data/messages';
import { fullName } from '@/data/staff';
import { InvalidInput, NotFound, readInput } from './input';
import type { Runtime } from './runtime';

/** Messages wait this long before they go, in ms, so that sending can be undone. */
export const UNDO_TIME = 10_000;
export const MOST_RECIPIENTS = 5000;

const missing = { message: 'is missing' };

export class MessageText {
  @IsNotEmpty(missing) @MaxLength(200, { message: 'is longer than 200 characters' }) subject!: string;
  @IsNotEmpty(missing) @MaxLength(20_000, { message: 'is longer than 20,000 characters' }) body!: string;
}

/** A text on its way: nothing is required yet. */
export class DraftText {
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) subject?: string;
  @IsOptional() @MaxLength(20_000, { message: 'is longer than 20,000 characters' }) body?: string;
}

/** Opens a draft to those of the learners that the viewer may see. @throws NotFound when that is nobody */
export async function startDraft(runtime: Runtime, view: View, ids: readonly number[]): Promise<number> {
  const mine = await keepInScope(runtime.db, view.viewer, ids.slice(0, MOST_RECIPIENTS));
  if (mine.length === 0) throw new NotFound('Nobody to write to');
  return addDraft(runtime.db, view.viewer.staffId, mine, runtime.clock.now());
}

/** What the fields of a message stand for, of each learner. */
async function recipientsOf(runtime: Runtime, db: Db, view: View, ids: readonly number[]): Promise<Recipient[]> {
  const { clock, zone } = runtime;
  const now = clock.now();
  const whole = { ...view, lens: {} };
  const [learners, enrolments, contacted] = await Promise.all([
    learnersById(db, whole, ids),
    enrolmentsOf(db, whole, ids, 'active'),
    contactedSince(db, ids, now - RECENT_CONTACT_DAYS * DAY),
  ]);
  const byId = new Map(learners.map((row) => [row.id, row]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    if (!row) return [];
    // The course that needs a word is the one with the highest drift; it comes first.
    const course = enrolments.find((enrolment) => enrolment.learner_id === id);
    const quiet = daysQuiet(row.last_at, now, zone);
    return [
      {
        id,
        learnerId: row.learner_id,
        name: fullName(row),
        email: row.email,
        facts: {
          given_name: row.given_name,
          course: course?.course_title ?? null,
          days_quiet: quiet === null ? null : String(quiet),
          last_access: row.last_at === null ? null : sayDay(dayOf(row.last_at, zone), dayOf(now, zone)),
        },
        contacted: contacted.get(id) ?? null,
      },
    ];
  });
}

export interface OpenDraft {
  draft: DraftRow;
  recipients: Recipient[];
}

/** A draft of the viewer's own with its recipients. @throws NotFound */
export async function openDraft(runtime: Runtime, view: View, draftId: number): Promise<OpenDraft> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft) throw new NotFound('No such message');
  const ids = await draftRecipients(runtime.db, view.viewer, draftId);
  return { draft, recipients: await recipientsOf(runtime, runtime.db, view, ids) };
}

export async function keepDraft(
  runtime: Runtime,
  view: View,
  draftId: number,
  values: Record<string, unknown>,
): Promise<void> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft) throw new NotFound('No such message');
  // A page may still keep its text while the message it sent is already on the way.
  if (draft.sent_at !== null) return;
  const text = readInput(DraftText, values);
  await saveDraft(runtime.db, draftId, { subject: text.subject ?? '', body: text.body ?? '' });
}

export async function leaveOut(runtime: Runtime, view: View, draftId: number, learnerId: number): Promise<void> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft || draft.sent_at !== null) throw new NotFound('No such message');
  await removeRecipient(runtime.db, draftId, learnerId);
}

export type SendResult =
  | { outcome: 'queued'; queued: number; stopped: { name: string; why: string }[] }
  | { outcome: 'contacted'; names: string[] }
  | { outcome: 'nobody'; stopped: { name: string; why: string }[] };

/**
 * Queues a draft's messages, once, however often or from wherever it is asked for.
 * Whoever cannot be written to is stopped and named. When somebody was contacted in the
 * last 5 days whom the sender has not `acknowledged`, nothing is queued and they are named:
 * the check and the queuing are one transaction, so two people writing at once see each other.
 * @throws InvalidInput, NotFound
 */
export async function sendDraft(
  runtime: Runtime,
  view: View,
  draftId: number,
  values: Record<string, unknown>,
  acknowledged: readonly number[],
): Promise<SendResult> {
  const text = readInput(MessageText, values);
  checkFields(text);
  return writing(runtime.db, async (trx) => {
    const draft = await findDraft(trx, view.viewer, draftId);
    if (!draft) throw new NotFound('No such message');
    const recipients = await recipientsOf(runtime, trx, view, await draftRecipients(trx, view.viewer, draftId));
    const stopped: { name: string; why: string }[] = [];
    const ready: Recipient[] = [];
    for (const recipient of recipients) {
      const why = whatStops(recipient, text);
      if (why === null) ready.push(recipient);
      else stopped.push({ name: recipient.name, why });
    }
    if (draft.sent_at !== null) return { outcome: 'queued', queued: ready.length, stopped };
    if (ready.length === 0) return { outcome: 'nobody', stopped };
    const known = new Set(acknowledged);
    const unknown = ready.filter((recipient) => recipient.contacted !== null && !known.has(recipient.id));
    if (unknown.length > 0) return { outcome: 'contacted', names: unknown.map((recipient) => recipient.name) };
    const now = runtime.clock.now();
    await saveDraft(trx, draftId, text);
    await closeDraft(trx, draftId, now);
    await queueMessages(
      trx,
      ready.map((recipient) => ({
        draft_id: draftId,
        learner_id: recipient.id,
        staff_id: view.viewer.staffId,
        address: recipient.email!,
        subject: fill(text.subject, recipient.facts).text,
        body: fill(text.body, recipient.facts).text,
        message_id: `${randomUUID()}@lee-shore.example`,
        created_at: now,
        next_try_at: runtime.clock.real() + UNDO_TIME,
      })),
    );
    return { outcome: 'queued', queued: ready.length, stopped };
  });
}

function checkFields(text: MessageText) {
  const faults = (['subject', 'body'] as const).flatMap((field) => {
    const unknown = unknownFields(text[field]);
    return unknown.length === 0 ? [] : [{ field, message: `has a field that does not exist: ${unknown.join(', ')}` }];
  });
  if (faults.length > 0) throw new InvalidInput(faults);
}

/** Takes a draft's messages back while none has been tried. Returns whether it could. */
export async function undoSend(runtime: Runtime, view: View, draftId: number): Promise<boolean> {
  return writing(runtime.db, async (trx) => {
    const draft = await findDraft(trx, view.viewer, draftId);
    return draft !== null && reopenDraft(trx, draftId);
  });
}

/** Decides about a message of which nobody knows whether it arrived, or that failed. @throws NotFound */
export async function settleMessage(runtime: Runtime, view: View, id: number, as: 'sent' | 'again'): Promise<void> {
  const message = await findMessage(runtime.db, view.viewer, id);
  if (!message || (message.state !== 'unsure' && message.state !== 'failed')) throw new NotFound('No such message');
  if (as === 'sent')
    await moveMessage(runtime.db, id, message.state, 'sent', { error: null, sent_at: runtime.clock.now() });
  else
    await moveMessage(runtime.db, id, message.state, 'queued', {
      error: null,
      attempts: 0,
      next_try_at: runtime.clock.real(),
    });
}
