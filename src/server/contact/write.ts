/** Writing to learners: a draft to one or many, each with their own facts, then the outbox. */
import { randomUUID } from 'node:crypto';
import { IsIn, IsNotEmpty, IsOptional, Matches, MaxLength, ValidateIf } from 'class-validator';
import { daysQuiet } from '@/core/access/last-access';
import { quietUntil } from '@/core/contact/quiet-hours';
import {
  CHANNEL_CHOICES,
  channelOf,
  dialled,
  whatStops,
  type ChannelChoice,
  type Recipient,
} from '@/core/contact/recipient';
import { fieldFault, fill } from '@/core/contact/template';
import { missedInARow, nameMissed, nameSession } from '@/core/sessions/record';
import { sayDay } from '@/core/time/words';
import { DAY, dayOf } from '@/core/time/zone';
import { contactDetailsOf } from '@/data/people/contact-details';
import { contactedSince } from '@/data/contact/contacts';
import { nextDue } from '@/data/courses/due-items';
import { sayGroup } from '@/data/courses/segments';
import { writing, type Db } from '@/data/db';
import {
  addDraft,
  closeDraft,
  draftRecipients,
  findDraft,
  removeRecipient,
  reopenDraft,
  storeDraft,
  type DraftRow,
} from '@/data/contact/drafts';
import { nextSessions } from '@/data/sessions/attendance';
import { enrolmentsOf } from '@/data/people/enrolments';
import { keepInScope, learnersById } from '@/data/people/learners';
import { findMessage, moveMessage, queueMessages } from '@/data/contact/messages';
import { staffById } from '@/data/staff/staff';
import { fullName } from '@/core/people/name';
import type { DriftView } from '@/data/view';
import { makeFollowUps } from './follow-ups';
import { recordedSessions } from '../sessions/records';
import { overdueLists } from '../work/work-due-list';
import { AsDay, InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

/** Messages wait this long before they go, in ms, so that sending can be undone. */
export const UNDO_TIME = 10_000;
export const MOST_RECIPIENTS = 5000;

/** How far back sessions are looked for that somebody has missed. */
const TERM = 200 * DAY;

const missing = { message: 'is missing' };

const subjectLong = { message: 'is longer than 200 characters' };
const bodyLong = { message: 'is longer than 20,000 characters' };
const channel = { message: `is not one of ${CHANNEL_CHOICES.join(', ')}` };
const number = { message: 'is not a number' };

/** Whoever was contacted within so long is named before they are written to again, in ms. */
const RECENT_CONTACT = 5 * DAY;

/** A text on its way: nothing is required yet. */
class DraftText {
  @IsOptional() @MaxLength(200, subjectLong) subject?: string;
  @IsOptional() @MaxLength(20_000, bodyLong) body?: string;
  @IsOptional() @IsIn(CHANNEL_CHOICES, channel) channel?: ChannelChoice;
  @IsOptional() @Matches(/^\d{1,15}$/, number) template_id?: string;
  /** The day on which to look at them again. */
  @IsOptional() @AsDay() follow_up_on?: number;
  /** Is a message to many about how they are doing? */
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not yes or no' }) is_about?: 'yes' | 'no';
}

/** A text to be sent. A text message has no subject. */
class MessageInput extends DraftText {
  @ValidateIf((input: MessageInput) => input.channel !== 'sms')
  @IsNotEmpty(missing)
  @MaxLength(200, subjectLong)
  override subject?: string;
  @IsNotEmpty(missing) @MaxLength(20_000, bodyLong) override body!: string;
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
  const text = readInput(DraftText, begin);
  if (ids.length > MOST_RECIPIENTS) {
    const message = `are more than ${MOST_RECIPIENTS.toLocaleString('en-GB')}: narrow the list, or write in parts`;
    throw new InvalidInput([{ field: 'learners', message }]);
  }
  const mine = await keepInScope(runtime.db, view.viewer, ids);
  if (mine.length === 0) throw new NotFound('Nobody to write to');
  const { subject, body, is_about } = draftOf(text);
  return addDraft(runtime.db, view.viewer.staffId, mine, runtime.clock.now(), { subject, body, is_about, report });
}

/** What the fields of a message stand for, of each learner. */
async function recipientsOf(runtime: Runtime, db: Db, view: DriftView, ids: readonly number[]): Promise<Recipient[]> {
  const { clock, zone } = runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const whole: DriftView = { ...view, segment: {}, asOf: null, now };
  const [learners, enrolments, contacted, reach, sender] = await Promise.all([
    learnersById(db, whole, ids),
    enrolmentsOf(db, whole, ids, 'active'),
    contactedSince(db, ids, now - RECENT_CONTACT),
    contactDetailsOf(db, ids),
    staffById(db, view.viewer.staffId),
  ]);
  const coursesOf = [...new Set(enrolments.map((enrolment) => enrolment.course_id))];
  const [next, records, overdue] = await Promise.all([
    nextSessions(db, coursesOf, now),
    recordedSessions({ db, zone }, view.viewer, ids, { from: now - TERM, to: now, now }),
    overdueLists({ db, zone }, whole, ids),
  ]);
  const due = await nextDue(db, coursesOf, now);
  const byId = new Map(learners.map((row) => [row.id, row]));
  // The course that needs a word is the one with the highest drift; it comes first.
  const courses = new Map([...enrolments].reverse().map((enrolment) => [enrolment.learner_id, enrolment]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    if (!row) return [];
    const course = courses.get(id);
    const quiet = daysQuiet(row.last_at, now, zone);
    const dueNext = course && due.get(course.course_id);
    const session = course && soonest(next, course);
    const inCourse = (records.get(id) ?? []).filter((one) => one.course_id === course?.course_id);
    return [
      {
        id,
        learnerId: row.learner_id,
        name: fullName(row),
        email: row.email,
        phone: row.phone,
        preferred: reach.get(id)?.preferred_channel ?? null,
        timezone: reach.get(id)?.timezone ?? null,
        facts: {
          given_name: row.given_name,
          course: course?.course_title ?? null,
          group: course?.group ? sayGroup(course.group) : null,
          days_quiet: quiet === null ? null : String(quiet),
          last_access: row.last_at === null ? null : sayDay(dayOf(row.last_at, zone), today),
          next_due: dueNext ? `${dueNext.title} (${sayDay(dayOf(dueNext.due_at, zone), today)})` : null,
          next_session: session ? nameSession(session, zone, now) : null,
          overdue_list: overdue.get(id) ?? null,
          missed_sessions: nameMissed(missedInARow(inCourse), zone, now),
          my_name: view.viewer.standInKey === null ? sender && fullName(sender) : view.viewer.name,
        },
        contacted: contacted.get(id) ?? null,
      },
    ];
  });
}

/** The next session of somebody's own group, or of all of the course's. */
function soonest<T extends { course_id: number; group_id: number | null; starts_at: number }>(
  sessions: readonly T[],
  { course_id, group_id }: { course_id: number; group_id: number | null },
): T | undefined {
  return sessions
    .filter(
      (session) => session.course_id === course_id && (session.group_id === null || session.group_id === group_id),
    )
    .sort((a, b) => a.starts_at - b.starts_at)[0];
}

export interface OpenDraft {
  draft: DraftRow;
  recipients: Recipient[];
}

/** A draft of the viewer's own with its recipients. @throws NotFound */
export async function openDraft(runtime: Runtime, view: DriftView, draftId: number): Promise<OpenDraft> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft) throw new NotFound('No such message');
  const ids = await draftRecipients(runtime.db, view.viewer, draftId);
  return { draft, recipients: await recipientsOf(runtime, runtime.db, view, ids) };
}

export async function saveDraft(runtime: Runtime, view: DriftView, draftId: number, values: Values): Promise<void> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft) throw new NotFound('No such message');
  // A page may still keep its text while the message it sent is already on the way.
  if (draft.sent_at !== null) return;
  await storeDraft(runtime.db, draftId, draftOf(readInput(DraftText, values)));
}

function draftOf(text: DraftText): Omit<DraftRow, 'id' | 'sent_at' | 'report'> {
  return {
    subject: text.subject ?? '',
    body: text.body ?? '',
    channel: text.channel ?? 'preferred',
    template_id: text.template_id ? Number(text.template_id) : null,
    follow_up_day: text.follow_up_on ?? null,
    is_about: text.is_about === 'yes' ? 1 : 0,
  };
}

export async function leaveOut(runtime: Runtime, view: DriftView, draftId: number, learnerId: number): Promise<void> {
  const draft = await findDraft(runtime.db, view.viewer, draftId);
  if (!draft || draft.sent_at !== null) throw new NotFound('No such message');
  await removeRecipient(runtime.db, draftId, learnerId);
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
  acknowledged: readonly number[],
): Promise<SendResult> {
  const text = readInput(MessageInput, values);
  checkInput(runtime, text);
  const draftText = draftOf(text);
  const { subject, body, template_id, follow_up_day } = draftText;
  // Messages carry real names whatever the screen shows; what is told about them does not.
  const real: DriftView = { ...view, viewer: { ...view.viewer, standInKey: null } };
  return writing(runtime.db, async (trx) => {
    const draft = await findDraft(trx, view.viewer, draftId);
    if (!draft) throw new NotFound('No such message');
    // What goes with a file goes by mail, whatever each prefers.
    const wanted = draft.report === null ? draftText.channel : 'email';
    const ids = await draftRecipients(trx, view.viewer, draftId);
    const recipients = await recipientsOf(runtime, trx, real, ids);
    const shown =
      view.viewer.standInKey === null
        ? null
        : new Map((await learnersById(trx, { ...view, segment: {} }, ids)).map((row) => [row.id, fullName(row)]));
    const nameOf = (recipient: Recipient) => shown?.get(recipient.id) ?? recipient.name;
    const stopped: Stopped[] = [];
    const ready: Recipient[] = [];
    for (const recipient of recipients) {
      const why = whatStops(recipient, { subject, body }, wanted);
      if (why === null) ready.push(recipient);
      else stopped.push({ name: nameOf(recipient), why });
    }
    const now = runtime.clock.now();
    const heldUntil = (recipient: Recipient) => quietUntil(now, recipient.timezone ?? runtime.zone);
    const held = ready.filter((recipient) => heldUntil(recipient) !== null).length;
    if (draft.sent_at !== null) return { outcome: 'queued', queued: ready.length, held, stopped };
    if (ready.length === 0) return { outcome: 'nobody', stopped };
    const known = new Set(acknowledged);
    const unknown = ready.filter((recipient) => recipient.contacted !== null && !known.has(recipient.id));
    if (unknown.length > 0) return { outcome: 'contacted', names: unknown.map(nameOf) };
    const sender = await staffById(trx, view.viewer.staffId);
    const domain = runtime.settings.domain ?? sender!.email.slice(sender!.email.lastIndexOf('@') + 1);
    await storeDraft(trx, draftId, draftText);
    await closeDraft(trx, draftId, now);
    await queueMessages(
      trx,
      ready.map((recipient) => {
        const channel = channelOf(recipient, wanted);
        return {
          draft_id: draftId,
          learner_id: recipient.id,
          staff_id: view.viewer.staffId,
          channel,
          template_id,
          address: channel === 'sms' ? dialled(recipient.phone)! : recipient.email!,
          subject: channel === 'sms' ? '' : fill(subject, recipient.facts).text,
          body: fill(body, recipient.facts).text,
          message_id: `${randomUUID()}@${domain}`,
          created_at: now,
          next_try_at: runtime.clock.real() + UNDO_TIME,
          not_before: heldUntil(recipient) ?? 0,
        };
      }),
    );
    if (follow_up_day !== null) {
      const learners = ready.map((recipient) => recipient.id);
      await makeFollowUps(runtime, trx, real, learners, {
        dueDay: follow_up_day,
        reason: subject || body.slice(0, 80),
        draftId,
      });
    }
    return { outcome: 'queued', queued: ready.length, held, stopped };
  });
}

/** What no class can say: the fields of the text, and a day that is still to come. */
function checkInput({ clock, zone }: Runtime, text: MessageInput) {
  const faults = (['subject', 'body'] as const).flatMap((field) => {
    const message = fieldFault(text[field] ?? '');
    return message === null ? [] : [{ field: field as string, message }];
  });
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
