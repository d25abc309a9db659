/** What came in: answers, automatic answers, and word that a message could not be delivered. */
import { countOf, type Db } from '../db';
import { freeText, personColumns } from '../person';
import { learnerInSegment, learnerInScope, wordsInScope, type ViewScope, type Viewer } from '../scope';
import { isLead } from '@/core/staff/rights';

export type ReplyKind = 'answer' | 'automatic' | 'bounce';

export interface NewReply {
  learner_id: number | null;
  message_id: number | null;
  kind: ReplyKind;
  external_id: string;
  sender: string;
  subject: string;
  body: string;
  received_at: number;
}

/** Stores what came in; null when it has come before. */
export async function addReply(trx: Db, reply: NewReply): Promise<number | null> {
  const rows = await trx('reply').insert(reply).onConflict('external_id').ignore().returning('id');
  return rows[0]?.id ?? null;
}

/** A message by one of the ids (RFC 5322) that an answer names, the last of them first. */
export async function messageByExternalId(
  db: Db,
  ids: readonly string[],
): Promise<{ id: number; learner_id: number } | null> {
  for (const id of [...ids].reverse()) {
    const row = await db('message').where('message_id', id).first('id', 'learner_id');
    if (row) return row;
  }
  return null;
}

/** The learner an address belongs to, when it is one's alone, with the last message sent there. */
export async function learnerByAddress(
  db: Db,
  address: string,
): Promise<{ learner_id: number; message_id: number | null } | null> {
  const rows: { id: number }[] = await db('active_learner')
    .whereRaw('email = ? COLLATE NOCASE', [address])
    .limit(2)
    .select('id');
  if (rows.length !== 1) return null;
  const last = await db('message').where('learner_id', rows[0].id).orderBy('created_at', 'desc').first('id');
  return { learner_id: rows[0].id, message_id: last?.id ?? null };
}

export interface ReplyRow {
  id: number;
  learner_id: string | null;
  name: string | null;
  /** The learner's number, for actions; null for nobody's. */
  learner: number | null;
  message_id: number | null;
  kind: ReplyKind;
  sender: string;
  subject: string;
  body: string;
  received_at: number;
  /** When somebody said that they have read it; null for an answer that waits. */
  read_at: number | null;
}

function readable(db: Db, viewer: Viewer) {
  const { id, name } = personColumns(viewer);
  return db('reply')
    .leftJoin('learner', 'learner.id', 'reply.learner_id')
    .select(
      'reply.id',
      db.raw(`CASE WHEN learner.id IS NULL THEN NULL ELSE ${id} END AS learner_id`),
      db.raw(`CASE WHEN learner.id IS NULL THEN NULL ELSE ${name} END AS name`),
      'reply.learner_id as learner',
      'reply.message_id',
      'reply.kind',
      db.raw(`${freeText(viewer, 'reply.sender')} AS sender`),
      db.raw(`${freeText(viewer, 'reply.subject')} AS subject`),
      db.raw(`${freeText(viewer, 'reply.body')} AS body`),
      'reply.received_at',
      'reply.read_at',
    );
}

/** Answers of learners in scope whose words the viewer may read. */
function repliesInScope(db: Db, viewer: Viewer) {
  return readable(db, viewer)
    .whereNotNull('reply.learner_id')
    .where(learnerInScope(db, viewer))
    .leftJoin('message', 'message.id', 'reply.message_id')
    .where(wordsInScope(viewer, 'message.staff_id'));
}

/** Answers of learners in scope, newest first; with `learnerId`, of that one alone. */
export async function repliesPage(
  db: Db,
  { viewer, segment }: ViewScope,
  { learnerId, until, limit, offset }: { learnerId?: number; until?: number; limit: number; offset: number },
): Promise<{ rows: ReplyRow[]; total: number }> {
  const query = () =>
    repliesInScope(db, viewer)
      .where(learnerInSegment(db, segment))
      .modify((q) => {
        if (learnerId !== undefined) q.where('reply.learner_id', learnerId);
        if (until !== undefined) q.where('reply.received_at', '<=', until);
      });
  const total = await countOf(query().clearSelect());
  const rows = await query()
    .orderBy([
      { column: 'reply.received_at', order: 'desc' },
      { column: 'reply.id', order: 'desc' },
    ])
    .limit(limit)
    .offset(offset);
  return { rows, total };
}

/** Unread answers to the viewer's own messages, of learners in scope: the figure on the rail. */
export async function countUnread(db: Db, viewer: Viewer): Promise<number> {
  return countOf(
    db('reply')
      .join('message', 'message.id', 'reply.message_id')
      .join('learner', 'learner.id', 'reply.learner_id')
      .where('message.staff_id', viewer.staffId)
      // As the index of unread answers says it: a value that is bound would not be known to be its.
      .whereRaw("reply.kind = 'answer' AND reply.read_at IS NULL")
      .where(learnerInScope(db, viewer)),
  );
}

/** Notes that an answer has been read, or is to be read again (null). False for one that the viewer may not read. */
export async function noteRead(db: Db, viewer: Viewer, id: number, at: number | null): Promise<boolean> {
  const found = await countOf(repliesInScope(db, viewer).where('reply.id', id).clearSelect());
  if (found === 0) return false;
  await db('reply').where({ id }).update({ read_at: at });
  return true;
}

/** Answers that matched nobody and wait for a lead to say whose they are. */
export async function unmatchedReplies(db: Db, viewer: Viewer): Promise<ReplyRow[]> {
  if (!isLead(viewer)) return [];
  return readable(db, viewer)
    .whereNull('reply.learner_id')
    .whereNull('reply.settled_at')
    .orderBy('reply.received_at', 'desc')
    .limit(100);
}

/** Says whose an unmatched answer is, or (null) that it is nobody's. */
export async function settleReply(trx: Db, id: number, learnerId: number | null, now: number): Promise<boolean> {
  const changed = await trx('reply')
    .where({ id })
    .whereNull('learner_id')
    .update({ learner_id: learnerId, settled_at: now });
  return changed === 1;
}
