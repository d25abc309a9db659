/** Those beside a learner who may be told how they are doing: contacts who may receive it, and a partner's coordinators. */
import { receiverOf, type Receiver } from '@/core/contact/recipient';
import type { Db } from '../db';
import { freeText, staffColumn, staffName } from '../person';
import type { Viewer } from '../scope';
import { idList } from '../view';

export interface OtherReceiver {
  learner_id: number;
  receiver: Receiver;
  /** What they are to the learner, in the words it was written in. */
  relation: string;
  name: string;
  email: string | null;
  phone: string | null;
  /** Of a contact, or of a member of a partner's staff. */
  contact_id: number | null;
  coordinator_id: number | null;
}

/**
 * Of learners in scope, everybody beside them who may receive a message: contacts of whom it was said, and the coordinators of
 * their organisation who have an account here.
 */
export async function othersWhoMayReceive(
  db: Db,
  viewer: Viewer,
  learnerIds: readonly number[],
): Promise<OtherReceiver[]> {
  const contacts: Omit<OtherReceiver, 'receiver'>[] = await db('learner_contact as c')
    .whereIn('c.learner_id', idList(db, learnerIds))
    .where('c.may_receive', 1)
    .orderBy(['c.learner_id', 'c.id'])
    .select(
      'c.learner_id',
      'c.relation',
      ...(['name', 'email', 'phone'] as const).map((column) =>
        db.raw(`${freeText(viewer, `c.${column}`)} AS ${column}`),
      ),
      'c.id as contact_id',
      db.raw('NULL AS coordinator_id'),
    );
  const coordinators: Omit<OtherReceiver, 'receiver'>[] = await db('learner')
    .join('staff_scope as s', 's.organisation_id', 'learner.organisation_id')
    .join('staff', 'staff.id', 's.staff_id')
    .whereIn('learner.id', idList(db, learnerIds))
    .where('s.kind', 'organisation')
    .where('staff.role', 'coordinator')
    .whereNull('staff.ended_at')
    .orderBy(['learner.id', 'staff.id'])
    .distinct(
      'learner.id as learner_id',
      db.raw("'organisation' AS relation"),
      db.raw(`${staffName(viewer)} AS name`),
      db.raw(`${staffColumn(viewer, 'email')} AS email`),
      db.raw('NULL AS phone'),
      db.raw('NULL AS contact_id'),
      'staff.id as coordinator_id',
    );
  return [
    ...contacts.map((row) => ({ ...row, receiver: receiverOf(row.relation) })),
    ...coordinators.map((row) => ({ ...row, receiver: 'organisation' as const })),
  ];
}

/**
 * When those beside some learners were last written to about them, since an instant: by the learner's number and the contact's or
 * coordinator's, as `receiverKey` writes it.
 */
export async function othersWrittenToSince(
  db: Db,
  learnerIds: readonly number[],
  since: number,
): Promise<Map<string, number>> {
  const rows: (Pick<OtherReceiver, 'learner_id' | 'contact_id' | 'coordinator_id'> & { at: number })[] = await db(
    'message',
  )
    .whereIn('learner_id', idList(db, learnerIds))
    .whereNot('receiver', 'learner')
    .whereNotIn('state', ['failed', 'bounced'])
    .where('created_at', '>=', since)
    .groupBy('learner_id', 'contact_id', 'coordinator_id')
    .select('learner_id', 'contact_id', 'coordinator_id', db.raw('max(created_at) AS at'));
  return new Map(rows.map((row) => [receiverKey(row), row.at]));
}

/** What a message's recipient is told by. @example receiverKey({ learner_id: 7, contact_id: 3, coordinator_id: null }) // '7:c3' */
export function receiverKey({
  learner_id,
  contact_id,
  coordinator_id,
}: Pick<OtherReceiver, 'learner_id' | 'contact_id' | 'coordinator_id'>): string {
  if (contact_id !== null) return `${learner_id}:c${contact_id}`;
  return coordinator_id === null ? String(learner_id) : `${learner_id}:o${coordinator_id}`;
}

/** May whoever beside a learner is to receive a message still do so? Not a viewer's reading: the outbox's own. */
export async function mayStillReceive(
  db: Db,
  { learner_id, contact_id, coordinator_id }: Pick<OtherReceiver, 'learner_id' | 'contact_id' | 'coordinator_id'>,
): Promise<boolean> {
  if (coordinator_id === null)
    return Boolean(
      await db('learner_contact')
        .where({ id: contact_id ?? 0, may_receive: 1, learner_id })
        .first('id'),
    );
  return Boolean(
    await db('staff')
      .join('staff_scope as s', 's.staff_id', 'staff.id')
      .join('learner', 'learner.organisation_id', 's.organisation_id')
      .where({ 'staff.id': coordinator_id, 'learner.id': learner_id, 's.kind': 'organisation' })
      .where('staff.role', 'coordinator')
      .whereNull('staff.ended_at')
      .first('staff.id'),
  );
}

/** May somebody beside a learner be told how they are doing? Also of one who is gone: no. */
export async function mayReceive(db: Db, contactId: number): Promise<boolean> {
  return Boolean(await db('learner_contact').where({ id: contactId, may_receive: 1 }).first('id'));
}

/** Takes somebody beside a learner out of those who may be told, by their own wish. */
export async function takeOutOfReceivers(trx: Db, contactId: number): Promise<void> {
  await trx('learner_contact').where('id', contactId).update({ may_receive: 0, allowed_at: null, allowed_words: '' });
}
