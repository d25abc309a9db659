/** Drafts, messages and when people were last in touch. */
import type { MessageState } from '@/core/followup/person';
import type { Db } from './db';
import { courseRowInScope, learnerInScope, type Viewer } from './scope';

export async function addDraft(db: Db, staffId: number, learnerIds: readonly number[], now: number): Promise<number> {
  const [draft] = await db('draft').insert({ staff_id: staffId, created_at: now }).returning('id');
  const rows = learnerIds.map((id) => ({ draft_id: draft.id, learner_id: id }));
  if (rows.length > 0) await db.batchInsert('draft_recipient', rows, 300);
  return draft.id;
}

export interface DraftRow {
  id: number;
  subject: string;
  body: string;
  sent_at: number | null;
}

/** A draft of the viewer's own. */
export async function findDraft(db: Db, viewer: Viewer, id: number): Promise<DraftRow | null> {
  return (await db('draft').where({ id, staff_id: viewer.staffId }).first('id', 'subject', 'body', 'sent_at')) ?? null;
}

export async function draftRecipients(db: Db, viewer: Viewer, draftId: number): Promise<number[]> {
  return db('draft_recipient')
    .join('learner', 'learner.id', 'draft_recipient.learner_id')
    .where('draft_id', draftId)
    .where(learnerInScope(db, viewer))
    .orderBy(['learner.family_name', 'learner.given_name', 'learner.id'])
    .pluck('learner.id');
}

export async function saveDraft(db: Db, id: number, text: { subject: string; body: string }): Promise<void> {
  await db('draft').where({ id }).update(text);
}

export async function removeRecipient(db: Db, draftId: number, learnerId: number): Promise<void> {
  await db('draft_recipient').where({ draft_id: draftId, learner_id: learnerId }).delete();
}

export interface NewMessage {
  draft_id: number;
  learner_id: number;
  staff_id: number;
  address: string;
  subject: string;
  body: string;
  message_id: string;
  created_at: number;
  /** Real time before which it is not sent. */
  next_try_at: number;
}

/** Marks a draft sent; false when it was already, by another click or browser. */
export async function closeDraft(trx: Db, draftId: number, now: number): Promise<boolean> {
  return (await trx('draft').where({ id: draftId }).whereNull('sent_at').update({ sent_at: now })) === 1;
}

export async function queueMessages(trx: Db, messages: readonly NewMessage[]): Promise<void> {
  await trx.batchInsert(
    'message',
    messages.map((message) => ({ ...message, state: 'queued' })),
    50,
  );
}

/** Takes back what a draft queued and opens it again, if nothing of it has been tried. */
export async function reopenDraft(trx: Db, draftId: number): Promise<boolean> {
  const tried = await trx('message')
    .where('draft_id', draftId)
    .where((q) => q.whereNot('state', 'queued').orWhere('attempts', '>', 0))
    .first('id');
  if (tried) return false;
  await trx('message').where('draft_id', draftId).delete();
  return (await trx('draft').where({ id: draftId }).whereNotNull('sent_at').update({ sent_at: null })) === 1;
}

/** Learners of these to whom anybody wrote after an instant, and when last. */
export async function contactedSince(
  db: Db,
  learnerIds: readonly number[],
  since: number,
): Promise<Map<number, number>> {
  const rows = await db('message')
    .whereIn('learner_id', learnerIds as number[])
    .where('created_at', '>=', since)
    .whereNot('state', 'failed')
    .groupBy('learner_id')
    .select('learner_id', db.raw('max(created_at) AS at'));
  return new Map(rows.map((row) => [row.learner_id, row.at]));
}

export interface ContactRow {
  id: number;
  learner_id: number;
  at: number;
  sent_at: number | null;
  state: MessageState;
  subject: string;
  body: string;
  by: string;
  by_id: number;
  /** Last event at or before the contact and first one after it, in the courses in view. */
  last_before: number | null;
  first_after: number | null;
}

/** Messages to some learners, newest first; `each` at most of each learner. */
export async function contactsOf(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
  each: number,
): Promise<ContactRow[]> {
  const beside = (aggregate: string, comparison: string) =>
    db('event')
      .whereRaw(`event.learner_id = m.learner_id AND event.at ${comparison} m.created_at`)
      .where(courseRowInScope(db, viewer, 'event'))
      .orderBy('event.at', aggregate === 'max' ? 'desc' : 'asc')
      .limit(1)
      .select('event.at');
  const newest = db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .whereIn('message.learner_id', learnerIds as number[])
    .where(learnerInScope(db, viewer))
    .select(
      'message.*',
      db.raw(
        'row_number() OVER (PARTITION BY message.learner_id ORDER BY message.created_at DESC, message.id DESC) AS place',
      ),
    );
  return db
    .from(newest.as('m'))
    .join('staff', 'staff.id', 'm.staff_id')
    .where('place', '<=', each)
    .orderBy([
      { column: 'm.created_at', order: 'desc' },
      { column: 'm.id', order: 'desc' },
    ])
    .select(
      'm.id',
      'm.learner_id',
      'm.created_at as at',
      'm.sent_at',
      'm.state',
      'm.subject',
      'm.body',
      db.raw('trim(staff.given_name || \' \' || staff.family_name) AS "by"'),
      'staff.id as by_id',
      beside('max', '<=').as('last_before'),
      beside('min', '>').as('first_after'),
    );
}

export interface OutboxRow {
  id: number;
  learner_id: string;
  name: string;
  subject: string;
  state: MessageState;
  attempts: number;
  error: string | null;
  created_at: number;
  sent_at: number | null;
  by: string;
}

/** What was written to learners in scope, newest first. */
export async function outboxPage(db: Db, viewer: Viewer, state: MessageState | null, limit: number, offset: number) {
  const query = () =>
    db('message')
      .join('learner', 'learner.id', 'message.learner_id')
      .where(learnerInScope(db, viewer))
      .modify((q) => {
        if (state) q.where('message.state', state);
      });
  const [{ total }] = await query().count('* as total');
  const rows: OutboxRow[] = await query()
    .join('staff', 'staff.id', 'message.staff_id')
    .orderBy([
      { column: 'message.created_at', order: 'desc' },
      { column: 'message.id', order: 'desc' },
    ])
    .limit(limit)
    .offset(offset)
    .select(
      'message.id',
      'learner.external_id as learner_id',
      db.raw("trim(learner.given_name || ' ' || learner.family_name) AS name"),
      'message.subject',
      'message.state',
      'message.attempts',
      'message.error',
      'message.created_at',
      'message.sent_at',
      db.raw('trim(staff.given_name || \' \' || staff.family_name) AS "by"'),
    );
  return { rows, total: Number(total) };
}

/** How many messages of each state there are in scope. */
export async function outboxCounts(db: Db, viewer: Viewer): Promise<Partial<Record<MessageState, number>>> {
  const rows = await db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .where(learnerInScope(db, viewer))
    .groupBy('message.state')
    .select('message.state', db.raw('count(*) AS count'));
  return Object.fromEntries(rows.map((row) => [row.state, row.count]));
}

export interface DueMessage {
  id: number;
  address: string;
  to_name: string;
  subject: string;
  body: string;
  attempts: number;
  message_id: string;
  from_name: string;
  from_email: string;
}

/** Messages whose time has come, oldest first. Not a viewer's reading: the outbox's own. */
export async function dueMessages(db: Db, now: number, limit: number): Promise<DueMessage[]> {
  return db('message')
    .join('learner', 'learner.id', 'message.learner_id')
    .join('staff', 'staff.id', 'message.staff_id')
    .where('message.state', 'queued')
    .where('message.next_try_at', '<=', now)
    .orderBy(['message.next_try_at', 'message.id'])
    .limit(limit)
    .select(
      'message.id',
      'message.address',
      db.raw("trim(learner.given_name || ' ' || learner.family_name) AS to_name"),
      'message.subject',
      'message.body',
      'message.attempts',
      'message.message_id',
      db.raw("trim(staff.given_name || ' ' || staff.family_name) AS from_name"),
      'staff.email as from_email',
    );
}

/** Moves a message from one state to another; false when it was no longer in that state. */
export async function moveMessage(
  db: Db,
  id: number,
  from: MessageState,
  to: MessageState,
  changes: { error?: string | null; sent_at?: number; attempts?: number; next_try_at?: number } = {},
): Promise<boolean> {
  return (
    (await db('message')
      .where({ id, state: from })
      .update({ state: to, ...changes })) === 1
  );
}

/** Messages that were being handed over when the sender died: nobody can know whether they arrived. */
export async function markInterrupted(db: Db): Promise<number> {
  return db('message')
    .where('state', 'sending')
    .update({ state: 'unsure', error: 'Lee Shore stopped while handing this over. It may have arrived.' });
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
    .first('message.id', 'message.state');
  return row ?? null;
}

/** Marks a draft's messages as sent at a time past: for messages that went out before there was a record here. */
export async function closeAsSent(db: Db, draftId: number, at: number): Promise<void> {
  await db('message').where({ draft_id: draftId, state: 'queued' }).update({ state: 'sent', sent_at: at, attempts: 1 });
}
