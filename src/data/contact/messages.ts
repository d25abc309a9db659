/** Messages on their way out: the outbox. */
import type { MessageState } from '@/core/contact/message-state';
import type { Channel, Receiver } from '@/core/contact/recipient';
import { countOf, durableTransaction, type Db } from '../db';
import { freeText, personColumns, staffName } from '../person';
import { cutPage, newestFirst, type PageAfter } from '../newest-first';
import { learnerInSegment, learnerInScope, wordsInScope, type ViewScope, type Viewer } from '../scope';

export interface NewMessage {
  draft_id: number;
  learner_id: number;
  staff_id: number;
  channel: Channel;
  template_id: number | null;
  address: string;
  subject: string;
  body: string;
  message_id: string;
  created_at: number;
  /** Real time before which it is not sent. */
  next_try_at: number;
  /** Instant of the programme's clock before which it is not sent: the end of the learner's quiet hours. */
  not_before: number;
  /** To whom: the learner, or somebody beside them, with their name and what they are. */
  receiver: Receiver;
  receiver_name: string;
  contact_id: number | null;
  coordinator_id: number | null;
  /** What the writer says on the page that goes with it. */
  sentence: string;
}

export async function queueMessages(trx: Db, messages: readonly NewMessage[]): Promise<void> {
  await trx.batchInsert(
    'message',
    messages.map((message) => ({ ...message, state: 'queued' })),
    50,
  );
}

export interface OutboxRow {
  id: number;
  channel: Channel;
  not_before: number;
  learner_id: string;
  name: string;
  subject: string;
  state: MessageState;
  attempts: number;
  error: string | null;
  created_at: number;
  sent_at: number | null;
  by: string;
  /** Whoever beside the learner it went to; empty for the learner. */
  receiver_name: string;
  /** Of a page that went as a link: until when it is good, how often it was opened and when last, and when it was revoked. */
  link_until: number | null;
  link_opened: number | null;
  link_opened_at: number | null;
  link_revoked_at: number | null;
}

/** What was written to learners in scope, newest first. */
export async function outboxPage(
  db: Db,
  { viewer, segment }: ViewScope,
  state: MessageState | null,
  page: PageAfter,
): Promise<{ rows: OutboxRow[]; total: number; goesOn: boolean }> {
  const { id, name } = personColumns(viewer);
  const query = () =>
    db('message')
      .join('learner', 'learner.id', 'message.learner_id')
      .where(learnerInScope(db, viewer))
      .where(wordsInScope(viewer, 'message.staff_id'))
      .where(learnerInSegment(db, segment))
      .modify((q) => {
        if (state) q.where('message.state', state);
      });
  const total = await countOf(query());
  const found: OutboxRow[] = await query()
    .join('staff', 'staff.id', 'message.staff_id')
    .leftJoin('page_link as l', 'l.message_id', 'message.id')
    .modify(newestFirst('message.created_at', 'message.id', page))
    .select(
      'message.id',
      'message.channel',
      'message.not_before',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      db.raw(`${freeText(viewer, "iif(message.subject = '', message.body, message.subject)")} AS subject`),
      'message.state',
      'message.attempts',
      db.raw(`${freeText(viewer, 'message.error')} AS error`),
      'message.created_at',
      'message.sent_at',
      db.raw(`${staffName(viewer)} AS "by"`),
      db.raw(`${freeText(viewer, 'message.receiver_name')} AS receiver_name`),
      'l.until as link_until',
      'l.opened as link_opened',
      'l.last_opened_at as link_opened_at',
      'l.revoked_at as link_revoked_at',
    );
  return { ...cutPage(found, page.limit), total };
}

/** How many messages of each state there are in scope. */
export async function outboxCounts(
  db: Db,
  { viewer, segment }: ViewScope,
): Promise<Partial<Record<MessageState, number>>> {
  const rows = await db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .where(learnerInScope(db, viewer))
    .where(wordsInScope(viewer, 'message.staff_id'))
    .where(learnerInSegment(db, segment))
    .groupBy('message.state')
    .select('message.state', db.raw('count(*) AS count'));
  return Object.fromEntries(rows.map((row) => [row.state, row.count]));
}

export interface DueMessage {
  id: number;
  channel: Channel;
  address: string;
  to_name: string;
  learner_name: string;
  subject: string;
  body: string;
  attempts: number;
  message_id: string;
  from_name: string;
  from_email: string;
  learner_id: number;
  staff_id: number;
  /** Of the draft: the report that goes with it. */
  report: string | null;
  receiver: Receiver;
  contact_id: number | null;
  coordinator_id: number | null;
  sentence: string;
  /** The page was too large for a mail: the address at which it is read goes instead. */
  as_link: number;
  /** Of the template: the answers that are offered as links; none to anybody beside the learner. */
  answers: string;
}

/** Messages whose time has come, oldest first. Not a viewer's reading: the outbox's own. */
export async function dueMessages(
  db: Db,
  { real, now, channels }: { real: number; now: number; channels: readonly Channel[] },
  limit: number,
): Promise<DueMessage[]> {
  return db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .join('staff', 'staff.id', 'message.staff_id')
    .join('draft', 'draft.id', 'message.draft_id')
    .leftJoin('template', 'template.id', 'message.template_id')
    .where('message.state', 'queued')
    .where('message.next_try_at', '<=', real)
    .where('message.not_before', '<=', now)
    .whereIn('message.channel', channels)
    .orderBy(['message.next_try_at', 'message.id'])
    .limit(limit)
    .select(
      'message.id',
      'message.channel',
      'message.address',
      db.raw(
        "iif(message.receiver = 'learner', trim(learner.given_name || ' ' || learner.family_name), message.receiver_name) AS to_name",
      ),
      db.raw("trim(learner.given_name || ' ' || learner.family_name) AS learner_name"),
      'message.subject',
      'message.body',
      'message.attempts',
      'message.message_id',
      db.raw("trim(staff.given_name || ' ' || staff.family_name) AS from_name"),
      'staff.email as from_email',
      'message.learner_id',
      'message.staff_id',
      'draft.report',
      'message.receiver',
      'message.contact_id',
      'message.coordinator_id',
      'message.sentence',
      'message.as_link',
      db.raw("iif(message.receiver = 'learner', ifnull(template.answers, ''), '') AS answers"),
    );
}

/** What changes beside a message's state. */
export interface MessageChanges {
  error?: string | null;
  sent_at?: number;
  attempts?: number;
  next_try_at?: number;
  as_link?: number;
}

/** Moves a message from one state to another; false when it was no longer in that state. */
type MoveMessage = (
  db: Db,
  id: number,
  from: MessageState,
  to: MessageState,
  changes?: MessageChanges,
) => Promise<boolean>;

export const moveMessage: MoveMessage = async (db, id, from, to, changes) =>
  (await db('message')
    .where({ id, state: from })
    .update({ state: to, ...changes })) === 1;

/** The same, on the disk when it returns: what was handed over must not be forgotten when the power fails. */
export const moveMessageSafely: MoveMessage = async (db, id, from, to, changes = {}) => {
  const names = Object.keys(changes);
  return durableTransaction(db, (raw) => {
    const set = ['state', ...names].map((name) => `${name} = @${name}`).join(', ');
    const { changes: moved } = raw
      .prepare(`UPDATE message SET ${set} WHERE id = @id AND state = @from`)
      .run({ ...changes, state: to, id, from });
    return moved === 1;
  });
};

/** Counts a message that is about to be handed over. Returns the count, with whose it is. */
export async function countHandedOver(db: Db): Promise<{ installation: string; handedOver: number }> {
  return durableTransaction(db, (raw) => {
    raw.exec("UPDATE setting SET value = CAST(CAST(value AS INTEGER) + 1 AS TEXT) WHERE name = 'handed_over'");
    const read = raw.prepare('SELECT value FROM setting WHERE name = ?').pluck();
    return { installation: String(read.get('installation')), handedOver: Number(read.get('handed_over')) };
  });
}

/** In a copy of the data nobody knows what has gone out since: what waits becomes unsure. Returns how many. */
export async function settleWaiting(trx: Db): Promise<number> {
  return trx('message').whereIn('state', ['queued', 'sending']).update({
    state: 'unsure',
    error: 'It waited when this copy of the data was made. It may have gone out since.',
  });
}

/** Messages that were queued while the clock was ahead: written after now, or to be tried later than any wait is long. */
export async function fromAheadMessages(
  db: Db,
  { now, latestTry }: { now: number; latestTry: number },
): Promise<{ id: number; timezone: string | null }[]> {
  return db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .where('message.state', 'queued')
    .where((either) => either.where('message.created_at', '>', now).orWhere('message.next_try_at', '>', latestTry))
    .select('message.id', 'learner.timezone');
}

/** Gives a queued message other times; it was written now at the latest. */
export async function reschedule(
  db: Db,
  id: number,
  { now, next_try_at, not_before }: { now: number; next_try_at: number; not_before: number },
): Promise<void> {
  await db('message')
    .where({ id, state: 'queued' })
    .update({ next_try_at, not_before, created_at: db.raw('min(created_at, ?)', [now]) });
}

/**
 * What was being handed over when the sender died. Nobody can know whether a mail arrived; a text
 * message is tried again, since its gateway knows it by its key.
 */
export async function settleInterrupted(db: Db): Promise<void> {
  await db('message')
    .where({ state: 'sending', channel: 'email' })
    .update({ state: 'unsure', error: 'Lee Shore stopped while handing this over. It may have arrived.' });
  await db('message').where({ state: 'sending', channel: 'sms' }).update({ state: 'queued' });
}

/** A message in scope, by id. */
export async function findMessage(
  db: Db,
  viewer: Viewer,
  id: number,
): Promise<{ id: number; state: MessageState } | null> {
  const row = await db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .where('message.id', id)
    .where(learnerInScope(db, viewer))
    .where(wordsInScope(viewer, 'message.staff_id'))
    .first('message.id', 'message.state');
  return row ?? null;
}

/** Marks a draft's messages as sent at a time past: for messages that went out before there was a record here. */
export async function closeAsSent(db: Db, draftId: number, at: number): Promise<void> {
  await db('message').where({ draft_id: draftId, state: 'queued' }).update({ state: 'sent', sent_at: at, attempts: 1 });
}
