/** Pages that were too large for a mail, read at an address instead. The address itself is never stored, only what it hashes to. */
import type { Db } from '../db';
import { learnerInScope, wordsInScope, type Viewer } from '../scope';

export interface PageLink {
  id: number;
  message_id: number;
  file_name: string;
  until: number;
}

/** Makes a message's address, in place of one it had. Returns its number, which is that of its file. */
export async function putPageLink(
  db: Db,
  link: { token_hash: string; message_id: number; file_name: string; created_at: number; until: number },
): Promise<number> {
  const fresh = { opened: 0, last_opened_at: null, revoked_at: null, revoked_by: null };
  const [row] = await db('page_link')
    .insert({ ...link, ...fresh })
    .onConflict('message_id')
    .merge()
    .returning('id');
  return row.id;
}

/** The page behind an address that is still good at an instant; null for any other. Not a viewer's reading. */
export async function findPageLink(db: Db, tokenHash: string, now: number): Promise<PageLink | null> {
  const row = await db('page_link')
    .where({ token_hash: tokenHash })
    .whereNull('revoked_at')
    .where('until', '>', now)
    .first('id', 'message_id', 'file_name', 'until');
  return row ?? null;
}

/** Counts that a page was opened. */
export async function countOpened(db: Db, id: number, now: number): Promise<void> {
  await db('page_link').where({ id }).increment('opened', 1).update({ last_opened_at: now });
}

/** Ends the address of a message whose words the viewer may read. Returns its number; null where there is none that is good. */
export async function revokePageLink(db: Db, viewer: Viewer, messageId: number, now: number): Promise<number | null> {
  const found = await db('page_link')
    .join('message', 'message.id', 'page_link.message_id')
    .join('learner', 'learner.id', 'message.learner_id')
    .where('message.id', messageId)
    .whereNull('page_link.revoked_at')
    .where(learnerInScope(db, viewer))
    .where(wordsInScope(viewer, 'message.staff_id'))
    .first('page_link.id');
  if (!found) return null;
  await db('page_link')
    .where({ id: found.id })
    .update({ revoked_at: now, revoked_by: viewer.staffId || null });
  return found.id;
}

/** Numbers of the addresses that are good at an instant: of all others no file is kept. */
export async function goodPageLinks(db: Db, now: number): Promise<number[]> {
  return db('page_link').whereNull('revoked_at').where('until', '>', now).pluck('id');
}
