/** Links by which staff set a password of their own: an invitation, or for one who has forgotten theirs. */
import type { Db } from '../db';

export type LinkKind = 'invitation' | 'forgotten';

export interface DueLink {
  id: number;
  staff_id: number;
  kind: LinkKind;
  tries: number;
  given_name: string;
  family_name: string;
  email: string;
  /** Who invited them; null for a password forgotten. */
  by_name: string | null;
}

/** What a link stands at. */
export interface LinkRow {
  staff_id: number;
  kind: LinkKind;
  asked_at: number;
  sent_at: number | null;
  expires_at: number | null;
  used_at: number | null;
  ended_at: number | null;
  error: string | null;
}

/** Adds a link whose mail goes next; an earlier one of theirs is good no more. */
export async function addLink(
  trx: Db,
  link: { staff_id: number; kind: LinkKind; asked_at: number; asked_by: number | null },
): Promise<void> {
  await endLinksOf(trx, link.staff_id, link.asked_at);
  await trx('password_link').insert(link);
}

/** Ends every link of somebody that has not been used. Returns how many there were. */
export async function endLinksOf(trx: Db, staffId: number, at: number): Promise<number> {
  return trx('password_link')
    .where({ staff_id: staffId })
    .whereNull('used_at')
    .whereNull('ended_at')
    .update({ ended_at: at });
}

/** Links whose mail has to go, the first asked for first. @param real now, by the clock that waiting goes by */
export async function dueLinks(db: Db, real: number, limit: number): Promise<DueLink[]> {
  return db('password_link as l')
    .join('staff', 'staff.id', 'l.staff_id')
    .leftJoin('staff as by', 'by.id', 'l.asked_by')
    .whereNull('l.sent_at')
    .whereNull('l.ended_at')
    .whereNull('staff.ended_at')
    .where('l.next_try_at', '<=', real)
    .orderBy('l.id')
    .limit(limit)
    .select(
      'l.id',
      'l.staff_id',
      'l.kind',
      'l.tries',
      'staff.given_name',
      'staff.family_name',
      'staff.email',
      db.raw(`trim("by".given_name || ' ' || "by".family_name) AS by_name`),
    );
}

/** Takes a link to be sent, unless another process has: its new word is good from now on. */
export async function takeLink(
  db: Db,
  { id, tries }: Pick<DueLink, 'id' | 'tries'>,
  next: { token_hash: string; expires_at: number; next_try_at: number },
): Promise<boolean> {
  const taken = await db('password_link')
    .where({ id, tries })
    .whereNull('sent_at')
    .whereNull('ended_at')
    .update({ ...next, tries: tries + 1 });
  return taken === 1;
}

export async function noteLink(
  db: Db,
  id: number,
  changes: Partial<Pick<LinkRow, 'sent_at' | 'ended_at' | 'error'>> & { next_try_at?: number },
): Promise<void> {
  await db('password_link').where({ id }).update(changes);
}

/** The link of a word, with whose it is; null for one that is used, ended, too old or of somebody who has left. */
export async function linkByToken(
  db: Db,
  tokenHash: string,
  now: number,
): Promise<{
  id: number;
  staff_id: number;
  kind: LinkKind;
  given_name: string;
  family_name: string;
  email: string;
} | null> {
  const row = await db('password_link as l')
    .join('staff', 'staff.id', 'l.staff_id')
    .where('l.token_hash', tokenHash)
    .where('l.expires_at', '>', now)
    .whereNull('l.used_at')
    .whereNull('l.ended_at')
    .whereNull('staff.ended_at')
    .first('l.id', 'l.staff_id', 'l.kind', 'staff.given_name', 'staff.family_name', 'staff.email');
  return row ?? null;
}

/** Uses a link up; false where it has been used or ended meanwhile. */
export async function spendLink(trx: Db, id: number, at: number): Promise<boolean> {
  const used = await trx('password_link')
    .where({ id })
    .whereNull('used_at')
    .whereNull('ended_at')
    .update({ used_at: at });
  return used === 1;
}

/** The newest invitation of each member of staff who has one. */
export async function newestInvitations(db: Db): Promise<Map<number, LinkRow>> {
  const rows: LinkRow[] = await db('password_link')
    .whereIn('id', db('password_link').where({ kind: 'invitation' }).groupBy('staff_id').select(db.raw('max(id)')))
    .select('staff_id', 'kind', 'asked_at', 'sent_at', 'expires_at', 'used_at', 'ended_at', 'error');
  return new Map(rows.map((row) => [row.staff_id, row]));
}

/** When a link of some kind was last asked for. */
export async function lastLinkOf(db: Db, staffId: number, kind: LinkKind): Promise<number | null> {
  const row = await db('password_link').where({ staff_id: staffId, kind }).orderBy('id', 'desc').first('asked_at');
  return row?.asked_at ?? null;
}

/** Notes that somebody says they have forgotten the password of an e-mail, whether or not there is such an account. */
export async function addForgotten(trx: Db, email: string, at: number): Promise<void> {
  await trx('forgotten_ask').insert({ email, at });
}

/** The e-mails asked for, which are forgotten by that. */
export async function takeForgotten(trx: Db): Promise<string[]> {
  const rows: { email: string }[] = await trx('forgotten_ask').select('email');
  await trx('forgotten_ask').delete();
  return [...new Set(rows.map(({ email }) => email))];
}
