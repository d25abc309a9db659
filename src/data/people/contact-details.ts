/** How a learner is reached: their own details, and the people beside them. */
import type { Channel } from '@/core/contact/recipient';
import { prepared, withRaw, type Db } from '../db';
import { freeText } from '../person';
import { conditionOf, learnerInScope, type Viewer } from '../scope';
import { idList } from '../view';

export interface ContactDetailsRow {
  id: number;
  preferred_channel: Channel | null;
  timezone: string | null;
}

/** Preferred channel and own time zone of some learners. */
export async function contactDetailsOf(db: Db, ids: readonly number[]): Promise<Map<number, ContactDetailsRow>> {
  const rows: ContactDetailsRow[] = await db('learner')
    .whereIn('id', idList(db, ids))
    .select('id', 'preferred_channel', 'timezone');
  return new Map(rows.map((row) => [row.id, row]));
}

export interface LearnerDetails {
  given_name: string;
  family_name: string;
  email: string | null;
  phone: string | null;
  organisation: string | null;
  preferred_channel: Channel | null;
  timezone: string | null;
}

/** A learner's details as they are stored, for changing them. */
export async function learnerDetails(db: Db, id: number): Promise<LearnerDetails> {
  return db('learner')
    .leftJoin('organisation', 'organisation.id', 'learner.organisation_id')
    .where('learner.id', id)
    .first(
      'given_name',
      'family_name',
      'email',
      'phone',
      'organisation.name as organisation',
      'preferred_channel',
      'timezone',
    );
}

export interface OtherContact {
  id: number;
  name: string;
  relation: string;
  email: string | null;
  phone: string | null;
  /** 1 where reports may be sent to them. */
  may_receive: number;
  /** Since when, where that is known, and in whose words that was said. */
  allowed_at: number | null;
  allowed_words: string;
}

/** Family, employer and whoever else may be spoken to about a learner in scope. */
export async function otherContacts(db: Db, viewer: Viewer, learnerId: number): Promise<OtherContact[]> {
  const seen = conditionOf(db, learnerInScope(db, viewer));
  const words = (column: string) => `${freeText(viewer, `c.${column}`)} AS ${column}`;
  const text = `SELECT c.id, ${words('name')}, c.relation, ${words('email')}, ${words('phone')}, c.may_receive, c.allowed_at,
      ${words('allowed_words')}
    FROM learner_contact c JOIN learner ON learner.id = c.learner_id
    WHERE c.learner_id = ? AND ${seen.sql} ORDER BY c.id`;
  return withRaw(db, (raw) => prepared(raw, text).all(learnerId, ...seen.bindings) as OtherContact[]);
}

export async function storeOtherContact(
  trx: Db,
  learnerId: number,
  id: number | null,
  contact: Omit<OtherContact, 'id' | 'allowed_at'>,
  at: number,
): Promise<void> {
  const allowed_at = contact.may_receive === 1 ? at : null;
  if (id === null) await trx('learner_contact').insert({ learner_id: learnerId, ...contact, allowed_at });
  else {
    const before = await trx('learner_contact').where({ id, learner_id: learnerId }).first('may_receive', 'allowed_at');
    // Whoever may already goes on since when they might.
    const since = before?.may_receive === 1 && allowed_at !== null ? before.allowed_at : allowed_at;
    await trx('learner_contact')
      .where({ id, learner_id: learnerId })
      .update({ ...contact, allowed_at: since });
  }
}

export async function deleteOtherContact(trx: Db, learnerId: number, id: number): Promise<OtherContact | null> {
  const row = await trx('learner_contact').where({ id, learner_id: learnerId }).first();
  await trx('learner_contact').where({ id, learner_id: learnerId }).delete();
  return row ?? null;
}
