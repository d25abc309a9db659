/** Drafts: a text on its way to one learner or many. */
import { readReceivers, type ChannelChoice, type Receiver } from '@/core/contact/recipient';
import type { Db } from '../db';
import { personColumns } from '../person';
import { learnerInScope, type Viewer } from '../scope';

export async function addDraft(
  db: Db,
  staffId: number,
  learnerIds: readonly number[],
  now: number,
  text: Partial<
    Pick<DraftRow, 'subject' | 'body' | 'other_subject' | 'other_body' | 'is_about' | 'is_praise' | 'report'>
  > & {
    receivers?: string;
  } = {},
): Promise<number> {
  const [draft] = await db('draft')
    .insert({ staff_id: staffId, created_at: now, ...text })
    .returning('id');
  const rows = learnerIds.map((id) => ({ draft_id: draft.id, learner_id: id }));
  if (rows.length > 0) await db.batchInsert('draft_recipient', rows, 300);
  return draft.id;
}

export interface DraftRow {
  id: number;
  subject: string;
  body: string;
  channel: ChannelChoice;
  template_id: number | null;
  follow_up_day: number | null;
  /** 1 where it is about how its readers are doing, however many they are. */
  is_about: number;
  /** 1 where it was begun as praise: each of its readers did something well of late. */
  is_praise: number;
  sent_at: number | null;
  /** The report that goes with it, each their own page of it: what it is made of, as JSON. */
  report: string | null;
  /** Who receives it of each learner. */
  receivers: Receiver[];
  /** What is written to those beside a learner. */
  other_subject: string;
  other_body: string;
  /** Keys of recipients who are left out. */
  left_out: string[];
  /** What the writer says on every page that goes with it. */
  sentence: string;
}

/** What somebody writes of a draft. */
export type DraftText = Omit<DraftRow, 'id' | 'is_praise' | 'sent_at' | 'report' | 'receivers' | 'left_out'>;

/** A draft of the viewer's own. */
export async function findDraft(db: Db, viewer: Viewer, id: number): Promise<DraftRow | null> {
  const row = await db('draft')
    .where({ id, staff_id: viewer.staffId })
    .first(
      ...([
        'id',
        'subject',
        'body',
        'channel',
        'template_id',
        'follow_up_day',
        'is_about',
        'is_praise',
        'sent_at',
      ] as const),
      ...(['report', 'receivers', 'other_subject', 'other_body', 'left_out', 'sentence'] as const),
    );
  return row ? { ...row, receivers: readReceivers(row.receivers), left_out: JSON.parse(row.left_out) } : null;
}

/** Says who receives a draft of each learner. */
export async function storeReceivers(db: Db, id: number, receivers: readonly Receiver[]): Promise<void> {
  await db('draft')
    .where({ id })
    .update({ receivers: receivers.join(',') });
}

/** What a draft says on the page of each of its learners, where it is not what it says to all. */
export async function sentencesOf(db: Db, draftId: number): Promise<Map<number, string>> {
  const rows = await db('draft_recipient')
    .where('draft_id', draftId)
    .whereNotNull('sentence')
    .select('learner_id', 'sentence');
  return new Map(rows.map(({ learner_id, sentence }) => [learner_id, sentence!]));
}

/** Says something else on one learner's page; null for what is said to all. */
export async function storeSentence(db: Db, draftId: number, learnerId: number, sentence: string | null) {
  await db('draft_recipient').where({ draft_id: draftId, learner_id: learnerId }).update({ sentence });
}

export async function draftRecipients(db: Db, viewer: Viewer, draftId: number): Promise<number[]> {
  const { sort } = personColumns(viewer);
  return db('draft_recipient')
    .join('learner', 'learner.id', 'draft_recipient.learner_id')
    .where('draft_id', draftId)
    .where(learnerInScope(db, viewer))
    .orderByRaw(`${sort}, learner.id`)
    .pluck('learner.id');
}

export async function storeDraft(db: Db, id: number, draft: DraftText): Promise<void> {
  await db('draft').where({ id }).update(draft);
}

/** Leaves a recipient out; each is told by its key, since one learner may have several. */
export async function leaveOutOf(db: Db, draftId: number, key: string): Promise<void> {
  await db('draft')
    .where({ id: draftId })
    .update({ left_out: db.raw("json_insert(left_out, '$[#]', ?)", [key]) });
}

/** Marks a draft sent; false when it was already, by another click or browser. */
export async function closeDraft(trx: Db, draftId: number, now: number): Promise<boolean> {
  return (await trx('draft').where({ id: draftId }).whereNull('sent_at').update({ sent_at: now })) === 1;
}

/** Takes back what a draft queued and promised and opens it again, if nothing of it has been tried. */
export async function reopenDraft(trx: Db, draftId: number): Promise<boolean> {
  const tried = await trx('message')
    .where('draft_id', draftId)
    .where((q) => q.whereNot('state', 'queued').orWhere('attempts', '>', 0))
    .first('id');
  if (tried) return false;
  await trx('follow_up').where('draft_id', draftId).delete();
  await trx('message').where('draft_id', draftId).delete();
  return (await trx('draft').where({ id: draftId }).whereNotNull('sent_at').update({ sent_at: null })) === 1;
}
