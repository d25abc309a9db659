/** Links in mails by which somebody answers with one press. An address itself is never stored, only what it hashes to. */
import type { Db } from '../db';

export interface AnswerLink {
  id: number;
  message_id: number;
  learner_id: number;
  draft_id: number;
  answers: string;
  until: number;
  used_at: number | null;
  chosen: string | null;
}

/** Makes a message's links, in place of those it had; one that was answered by already keeps them. Returns whether they are made. */
export async function putAnswerLink(
  db: Db,
  link: { token_hash: string; message_id: number; answers: string; until: number },
): Promise<boolean> {
  const rows = await db('answer_link')
    .insert(link)
    .onConflict('message_id')
    .merge(['token_hash', 'answers', 'until'])
    .whereNull('answer_link.used_at')
    .returning('id');
  return rows.length === 1;
}

/** The links behind an address, used or not, that are good at an instant. Not a viewer's reading. */
export async function findAnswerLink(db: Db, tokenHash: string, now: number): Promise<AnswerLink | null> {
  const row = await db('answer_link as a')
    .join('message', 'message.id', 'a.message_id')
    .where('a.token_hash', tokenHash)
    .where('a.until', '>', now)
    .first(
      'a.id',
      'a.message_id',
      'message.learner_id',
      'message.draft_id',
      'a.answers',
      'a.until',
      'a.used_at',
      'a.chosen',
    );
  return row ?? null;
}

/** Uses links up with an answer. Returns whether this was the first. */
export async function useAnswerLink(trx: Db, id: number, chosen: string, at: number): Promise<boolean> {
  return (await trx('answer_link').where({ id }).whereNull('used_at').update({ used_at: at, chosen })) === 1;
}

/** Moves the open follow-ups that were made with a message's draft on its learner to another day. */
export async function moveFollowUpsOf(
  trx: Db,
  { draft_id, learner_id }: Pick<AnswerLink, 'draft_id' | 'learner_id'>,
  dueDay: number,
): Promise<number> {
  return trx('follow_up').where({ draft_id, learner_id }).whereNull('closed_at').update({ due_day: dueDay });
}
