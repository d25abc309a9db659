/** When people were in touch with a learner, by message or call, and what came of it. */
import type { Knex } from 'knex';
import type { Channel } from '@/core/contact/recipient';
import type { CallOutcome } from '@/core/contact/call';
import type { MessageState } from '@/core/contact/message-state';
import type { Db } from '../db';
import { freeText, staffName, staffWords } from '../person';
import { learnerInScope, wordsOnly, type Viewer } from '../scope';
import { nearestSign } from './signs';
import { idList } from '../view';

/** Learners of these whom anybody tried to reach after an instant, and when last. */
export async function contactedSince(
  db: Db,
  learnerIds: readonly number[],
  since: number,
): Promise<Map<number, number>> {
  const rows = await db('contact_attempt')
    .whereIn('learner_id', idList(db, learnerIds))
    .where('at', '>=', since)
    .groupBy('learner_id')
    .select('learner_id', db.raw('max(at) AS at'));
  return new Map(rows.map((row) => [row.learner_id, row.at]));
}

export interface ContactRow {
  id: number;
  learner_id: number;
  kind: Channel | 'call';
  at: number;
  /** Of a message. */
  state: MessageState | null;
  /** Of a call. */
  outcome: CallOutcome | null;
  sent_at: number | null;
  error: string | null;
  subject: string;
  body: string;
  /** Whoever beside the learner a message went to; empty for the learner, and for a call. */
  to: string;
  by: string;
  by_id: number;
  /** The first answer to a message, and what it says. */
  answered_at: number | null;
  answer: string | null;
  /** Last sign of life at or before the contact and first one after it, in the courses in view. */
  last_before: number | null;
  first_after: number | null;
}

interface Stretch {
  /** At most this many of each learner, newest first. */
  each: number;
  /** Not after this instant. */
  until: number;
}

/** Contacts of some learners, newest first. */
export async function contactsOf(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
  { each, until }: Stretch,
): Promise<ContactRow[]> {
  const contact = { learner: 'm.learner_id', at: 'm.at' };
  const messages = db('message').select(
    'id',
    'learner_id',
    'channel as kind',
    'created_at as at',
    'state',
    db.raw('NULL AS outcome'),
    'sent_at',
    'error',
    'subject',
    'body',
    'receiver_name',
    'staff_id',
    db.raw(`(SELECT min(received_at) FROM reply WHERE message_id = message.id AND kind = 'answer') AS answered_at`),
    db.raw(
      `(SELECT ${freeText(viewer, 'body')} FROM reply WHERE message_id = message.id AND kind = 'answer'
        ORDER BY received_at LIMIT 1) AS answer`,
    ),
  );
  const calls = db('call').select(
    'id',
    'learner_id',
    db.raw("'call' AS kind"),
    'at',
    db.raw('NULL AS state'),
    'outcome',
    db.raw('NULL AS sent_at'),
    db.raw('NULL AS error'),
    db.raw("'' AS subject"),
    'remark as body',
    db.raw("'' AS receiver_name"),
    'staff_id',
    db.raw('NULL AS answered_at'),
    db.raw('NULL AS answer'),
  );
  const mine = (query: Knex.QueryBuilder, at: string): Knex.QueryBuilder =>
    query.whereIn('learner_id', idList(db, learnerIds)).where(at, '<=', until);
  const placed = db
    .from(
      mine(messages, 'created_at')
        .unionAll([mine(calls, 'at')])
        .as('c'),
    )
    .join('learner', 'learner.id', 'c.learner_id')
    .where(learnerInScope(db, viewer))
    .select('c.*', db.raw('row_number() OVER (PARTITION BY c.learner_id ORDER BY c.at DESC, c.id DESC) AS place'));
  return db
    .from(placed.as('m'))
    .join('staff', 'staff.id', 'm.staff_id')
    .where('place', '<=', each)
    .orderBy([
      { column: 'm.at', order: 'desc' },
      { column: 'm.id', order: 'desc' },
    ])
    .select(
      'm.id',
      'm.learner_id',
      'm.kind',
      'm.at',
      'm.state',
      db.raw(`${wordsOnly(viewer, 'm.staff_id', 'm.outcome')} AS outcome`),
      'm.sent_at',
      db.raw(`${wordsOnly(viewer, 'm.staff_id', 'm.error')} AS error`),
      db.raw(`${staffWords(viewer, 'm.staff_id', 'm.subject')} AS subject`),
      db.raw(`${staffWords(viewer, 'm.staff_id', 'm.body')} AS body`),
      db.raw(`${freeText(viewer, 'm.receiver_name')} AS "to"`),
      db.raw(`${staffName(viewer)} AS "by"`),
      'staff.id as by_id',
      db.raw(`${wordsOnly(viewer, 'm.staff_id', 'm.answered_at')} AS answered_at`),
      db.raw(`${wordsOnly(viewer, 'm.staff_id', 'm.answer')} AS answer`),
      nearestSign(db, viewer, contact, 'before').as('last_before'),
      nearestSign(db, viewer, contact, 'after').as('first_after'),
    );
}

export async function addCall(
  trx: Db,
  call: { learner_id: number; staff_id: number; at: number; outcome: CallOutcome; remark: string },
): Promise<number> {
  const [row] = await trx('call').insert(call).returning('id');
  return row.id;
}

/** Takes a call of one's own back. */
export async function removeCall(trx: Db, staffId: number, id: number): Promise<boolean> {
  return (await trx('call').where({ id, staff_id: staffId }).delete()) === 1;
}

/**
 * A number that changes whenever anybody has been in touch with a learner or planned to: so that
 * an open page learns of a colleague's contact. It says nothing about whom.
 */
export async function contactPulse(db: Db): Promise<string> {
  const row = await db
    .select(
      db.raw('(SELECT max(id) FROM message) AS a'),
      db.raw('(SELECT max(id) FROM call) AS b'),
      db.raw('(SELECT max(id) FROM reply) AS c'),
      db.raw('(SELECT max(id) FROM note) AS d'),
      db.raw('(SELECT max(id) FROM follow_up) AS e'),
      db.raw('(SELECT max(id) FROM audit) AS f'),
      db.raw('(SELECT max(id) FROM flare) AS g'),
    )
    .first();
  return Object.values(row)
    .map((value) => value ?? 0)
    .join('.');
}
