/** Writing to learners: a draft to one or many, each with their own facts, then the outbox. */
import { randomUUID } from 'node:crypto';
import { ArrayNotEmpty, IsArray, IsIn, IsOptional, Matches, MaxLength } from 'class-validator';
import { quietUntil } from '@/core/contact/quiet-hours';
import {
  CHANNEL_CHOICES,
  RECEIVERS,
  channelOf,
  dialled,
  textFor,
  whatStops,
  type ChannelChoice,
  type Receiver,
  type Recipient,
} from '@/core/contact/recipient';
import { fieldFault, fill } from '@/core/contact/template';
import { dayOf } from '@/core/time/zone';
import { writing, type Db } from '@/data/db';
import {
  addDraft,
  closeDraft,
  findDraft,
  leaveOutOf,
  reopenDraft,
  storeDraft,
  storeReceivers,
  storeSentence,
  type DraftRow,
  type DraftText,
} from '@/data/contact/drafts';
import { keepInScope } from '@/data/people/learners';
import { findMessage, moveMessage, queueMessages } from '@/data/contact/messages';
import { staffById } from '@/data/staff/staff';
import type { DriftView } from '@/data/view';
import { makeFollowUps } from './follow-ups';
import { recipientsOf, sentenceFor, type Addressed } from './recipients';
import { AsDay, InvalidInput, NotFound, readInput, type FieldFault, type Values } from '../request/input';
import type { Runtime } from '../runtime';

/** Messages wait this long before they go, in ms, so that sending can be undone. */
export const UNDO_TIME = 10_000;
export const MOST_RECIPIENTS = 5000;

const missing = { message: 'is missing' };

const subjectLong = { message: 'is longer than 200 characters' };
const bodyLong = { message: 'is longer than 20,000 characters' };
/** The longest that a writer may say on a page, in characters. */
const LONGEST_SENTENCE = 2000;
const sentenceLong = { message: 'is longer than 2,000 characters' };
const channel = { message: `is not one of ${CHANNEL_CHOICES.join(', ')}` };
const yesOrNo = { message: 'is not yes or no' };
const number = { message: 'is not a number' };

/** A text on its way: nothing is required yet. */
class DraftInput {
  @IsOptional() @MaxLength(200, subjectLong) subject?: string;
  @IsOptional() @MaxLength(20_000, bodyLong) body?: string;
  /** What those beside a learner are written. */
  @IsOptional() @MaxLength(200, subjectLong) other_subject?: string;
  @IsOptional() @MaxLength(20_000, bodyLong) other_body?: string;
  /** What is said on the page that goes with it. */
  @IsOptional() @MaxLength(LONGEST_SENTENCE, sentenceLong) sentence?: string;
  @IsOptional() @IsIn(CHANNEL_CHOICES, channel) channel?: ChannelChoice;
  @IsOptional() @Matches(/^\d{1,15}$/, number) template_id?: string;
  /** The day on which to look at them again. */
  @IsOptional() @AsDay() follow_up_on?: number;
  /** Is a message to many about how they are doing? */
  @IsOptional() @IsIn(['yes', 'no'], yesOrNo) is_about?: 'yes' | 'no';
}

/** What a draft begins with, beside its text. */
class BeginInput extends DraftInput {
  /** Is it praise of what they did well? */
  @IsOptional() @IsIn(['yes', 'no'], yesOrNo) is_praise?: 'yes' | 'no';
  /** Who receives it of each learner, where it is not the learner. */
  @IsOptional() @IsIn(RECEIVERS, { message: `is none of ${RECEIVERS.join(', ')}` }) receivers?: Receiver;
}

/**
 * Opens a draft to those of the learners that the viewer may see, with a text to begin from.
 * @throws NotFound when that is nobody, InvalidInput for too many or a text that is too long
 */
export async function startDraft(
  runtime: Runtime,
  view: DriftView,
  ids: readonly number[],
  begin: Record<string, unknown> = {},
  report: string | null = null,
): Promise<number> {
  const text = readInput(BeginInput, begin);
  if (ids.length > MOST_RECIPIENTS) {
    const message = `are more than ${MOST_RECIPIENTS.toLocaleString('en-GB')}: narrow the list, or write in parts`;
    throw new InvalidInput([{ field: 'learners', message }]);
  }
  const mine = await keepInScope(runtime.db, view.viewer, ids);
  if (mine.length === 0) throw new NotFound('Nobody to write to');
  const { subject, body, other_subject, other_body, is_about } = draftOf(text);
  return addDraft(runtime.db, view.viewer.staffId, mine, runtime.clock.now(), {
    subject,
    body,
    other_subject,
    other_body,
    is_about,
    report,
    is_praise: text.is_praise === 'yes' ? 1 : 0,
    receivers: text.receivers ?? 'learner',
  });
}

export interface OpenDraft {
  draft: DraftRow;
  recipients: Recipient[];
  /** Of how many learners each sort of receiver there is somebody. */
  possible: Addressed['possible'];
}

/** A draft of the viewer's own with its recipients. @throws NotFound */
export async function openDraft(runtime: Runtime, view: DriftView, draftId: number): Promise<OpenDraft> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft) throw new NotFound('No such message');
  const { recipients, possible } = await recipientsOf(runtime, runtime.db, view, draft);
  return { draft, recipients, possible };
}

export async function saveDraft(runtime: Runtime, view: DriftView, draftId: number, values: Values): Promise<void> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft) throw new NotFound('No such message');
  // A page may still keep its text while the message it sent is already on the way.
  if (draft.sent_at !== null) return;
  await storeDraft(runtime.db, draftId, draftOf(readInput(DraftInput, values)));
}

function draftOf(text: DraftInput): DraftText {
  return {
    subject: text.subject ?? '',
    body: text.body ?? '',
    other_subject: text.other_subject ?? '',
    other_body: text.other_body ?? '',
    sentence: text.sentence ?? '',
    channel: text.channel ?? 'preferred',
    template_id: text.template_id ? Number(text.template_id) : null,
    follow_up_day: text.follow_up_on ?? null,
    is_about: text.is_about === 'yes' ? 1 : 0,
  };
}

/** A draft of the viewer's own that has not been sent. @throws NotFound */
async function unsentDraft(db: Db, view: DriftView, draftId: number): Promise<DraftRow> {
  const draft = await findDraft(db, view.viewer, draftId);
  if (!draft || draft.sent_at !== null) throw new NotFound('No such message');
  return draft;
}

/** Leaves one recipient out, told by its key. @throws NotFound */
export async function leaveOut(runtime: Runtime, view: DriftView, draftId: number, key: string): Promise<void> {
  await unsentDraft(runtime.db, view, draftId);
  if (!/^\d{1,15}(:[co]\d{1,15})?$/.test(key)) throw new NotFound('No such recipient');
  await leaveOutOf(runtime.db, draftId, key);
}

class ReceiversInput {
  @IsArray()
  @ArrayNotEmpty({ message: 'are nobody' })
  @IsIn(RECEIVERS, { each: true, message: `are none of ${RECEIVERS.join(', ')}` })
  receivers!: Receiver[];
}

/** Chooses who receives a draft of each learner. @throws InvalidInput, NotFound */
export async function chooseReceivers(
  runtime: Runtime,
  view: DriftView,
  draftId: number,
  chosen: readonly string[],
): Promise<void> {
  await unsentDraft(runtime.db, view, draftId);
  const { receivers } = readInput(ReceiversInput, { receivers: [...new Set(chosen)] });
  await storeReceivers(runtime.db, draftId, receivers);
}

class SentenceInput {
  @IsOptional() @MaxLength(LONGEST_SENTENCE, sentenceLong) sentence?: string;
}

/** Says something on the page of one learner alone; null for what is said to all. @throws InvalidInput, NotFound */
export async function sayOnPage(
  runtime: Runtime,
  view: DriftView,
  draftId: number,
  learnerId: number,
  sentence: string | null,
): Promise<void> {
  await unsentDraft(runtime.db, view, draftId);
  const own = sentence === null ? null : (readInput(SentenceInput, { sentence }).sentence ?? '');
  const fault = own === null ? null : fieldFault(own);
  if (fault !== null) throw new InvalidInput([{ field: 'sentence', message: fault }]);
  await storeSentence(runtime.db, draftId, learnerId, own);
}

interface Stopped {
  name: string;
  why: string;
}

export type SendResult =
  | { outcome: 'queued'; queued: number; held: number; stopped: Stopped[] }
  | { outcome: 'contacted'; names: string[] }
  | { outcome: 'nobody'; stopped: Stopped[] };

/**
 * Queues a draft's messages, once, however often or from wherever it is asked for.
 * Whoever cannot be written to is stopped and named. When somebody was contacted in the
 * last 5 days whom the sender has not `acknowledged`, nothing is queued and they are named:
 * the check and the queuing are one transaction, so two people writing at once see each other.
 * What falls into a learner's quiet hours is held until they end.
 * @throws InvalidInput, NotFound
 */
export async function sendDraft(
  runtime: Runtime,
  view: DriftView,
  draftId: number,
  values: Values,
  acknowledged: readonly string[],
): Promise<SendResult> {
  const text = readInput(DraftInput, values);
  const draftText = draftOf(text);
  const { subject, body, template_id, follow_up_day } = draftText;
  // Messages carry real names whatever the screen shows; what is told about them does not.
  const real: DriftView = { ...view, viewer: { ...view.viewer, standInKey: null } };
  return writing(runtime.db, async (trx) => {
    const draft = await findDraft(trx, view.viewer, draftId);
    if (!draft) throw new NotFound('No such message');
    // What goes with a file goes by mail, whatever each prefers.
    const wanted = draft.report === null ? draftText.channel : 'email';
    checkInput(runtime, text, draft.receivers, wanted);
    const { recipients, others } = await recipientsOf(runtime, trx, real, draft);
    const shown =
      view.viewer.standInKey === null
        ? null
        : new Map((await recipientsOf(runtime, trx, view, draft)).recipients.map(({ key, to }) => [key, to]));
    const nameOf = (recipient: Recipient) => shown?.get(recipient.key) ?? recipient.to;
    const stopped: Stopped[] = [];
    const ready: Recipient[] = [];
    for (const recipient of recipients) {
      const why = whatStops(recipient, draftText, wanted) ?? whatStopsPage(draft, recipient, draftText.sentence);
      if (why === null) ready.push(recipient);
      else stopped.push({ name: nameOf(recipient), why });
    }
    const now = runtime.clock.now();
    const heldUntil = (recipient: Recipient) => quietUntil(now, recipient.timezone ?? runtime.zone);
    const held = ready.filter((recipient) => heldUntil(recipient) !== null).length;
    if (draft.sent_at !== null) return { outcome: 'queued', queued: ready.length, held, stopped };
    if (ready.length === 0) return { outcome: 'nobody', stopped };
    const known = new Set(acknowledged);
    const unknown = ready.filter((recipient) => recipient.contacted !== null && !known.has(recipient.key));
    if (unknown.length > 0) return { outcome: 'contacted', names: unknown.map(nameOf) };
    const sender = await staffById(trx, view.viewer.staffId);
    const domain = runtime.settings.domain ?? sender!.email.slice(sender!.email.lastIndexOf('@') + 1);
    await storeDraft(trx, draftId, draftText);
    await closeDraft(trx, draftId, now);
    await queueMessages(
      trx,
      ready.map((recipient) => {
        const channel = channelOf(recipient, wanted);
        const own = textFor(recipient, draftText);
        const other = others.get(recipient.key);
        return {
          draft_id: draftId,
          learner_id: recipient.id,
          staff_id: view.viewer.staffId,
          channel,
          template_id,
          address: channel === 'sms' ? dialled(recipient.phone)! : recipient.email!,
          subject: channel === 'sms' ? '' : fill(own.subject, recipient.facts).text,
          body: fill(own.body, recipient.facts).text,
          receiver: recipient.receiver,
          receiver_name: recipient.receiver === 'learner' ? '' : recipient.to,
          contact_id: recipient.receiver === 'learner' ? null : (other?.contact_id ?? null),
          coordinator_id: recipient.receiver === 'learner' ? null : (other?.coordinator_id ?? null),
          sentence: draft.report === null ? '' : sentenceFor(recipient, draftText.sentence).text,
          message_id: `${randomUUID()}@${domain}`,
          created_at: now,
          next_try_at: runtime.clock.real() + UNDO_TIME,
          not_before: heldUntil(recipient) ?? 0,
        };
      }),
    );
    if (follow_up_day !== null) {
      const learners = [...new Set(ready.map((recipient) => recipient.id))];
      await makeFollowUps(runtime, trx, real, learners, {
        dueDay: follow_up_day,
        reason: subject || body.slice(0, 80) || draftText.other_subject,
        draftId,
      });
    }
    return { outcome: 'queued', queued: ready.length, held, stopped };
  });
}

/** Why the page that goes with a message cannot be made; null where there is none, or nothing is wrong. */
function whatStopsPage({ report }: DraftRow, recipient: Recipient, toAll: string): string | null {
  const { missing } = sentenceFor(recipient, toAll);
  return report === null || missing.length === 0 ? null : `has no value for ${missing.join(', ')} on the page`;
}

/**
 * What no class can say: what is required of whom it goes to (a text message has no subject), the fields of the texts, and a
 * day that is still to come.
 */
function checkInput(
  { clock, zone }: Runtime,
  text: DraftInput,
  receivers: readonly Receiver[],
  wanted: ChannelChoice,
): void {
  const toLearner = receivers.includes('learner');
  const toOthers = receivers.some((receiver) => receiver !== 'learner');
  const required = [
    ...(toLearner ? (['subject', 'body'] as const) : []),
    ...(toOthers ? (['other_subject', 'other_body'] as const) : []),
  ].filter((field) => wanted !== 'sms' || !field.endsWith('subject'));
  const faults: FieldFault[] = required
    .filter((field) => !text[field]?.trim())
    .map((field) => ({ field, message: missing.message }));
  for (const field of [...required, 'sentence'] as const) {
    const message = fieldFault(text[field] ?? '');
    if (message !== null) faults.push({ field, message });
  }
  if (text.follow_up_on !== undefined && text.follow_up_on < dayOf(clock.now(), zone)) {
    faults.push({ field: 'follow_up_on', message: 'lies before today' });
  }
  if (faults.length > 0) throw new InvalidInput(faults);
}

/** Takes a draft's messages back while none has been tried. Returns whether it could. */
export async function undoSend(runtime: Runtime, view: DriftView, draftId: number): Promise<boolean> {
  return writing(runtime.db, async (trx) => {
    const draft = await findDraft(trx, view.viewer, draftId);
    return draft !== null && reopenDraft(trx, draftId);
  });
}

/** Decides about a message of which nobody knows whether it arrived, or that did not. @throws NotFound */
export async function settleMessage(
  runtime: Runtime,
  view: DriftView,
  id: number,
  as: 'sent' | 'again',
): Promise<void> {
  const message = await findMessage(runtime.db, view.viewer, id);
  if (!message || !['unsure', 'failed', 'bounced'].includes(message.state)) throw new NotFound('No such message');
  if (as === 'sent')
    await moveMessage(runtime.db, id, message.state, 'sent', { error: null, sent_at: runtime.clock.now() });
  else
    await moveMessage(runtime.db, id, message.state, 'queued', {
      error: null,
      attempts: 0,
      next_try_at: runtime.clock.real(),
    });
}
