/** Notes on learners, for oneself or for staff, with labels. Nothing of them ever goes to a learner. */
import type { Knex } from 'knex';
import { countOf, maxOf, type Db } from '../db';
import { cutPage, newestFirst, type PageAfter } from '../newest-first';
import { likePattern } from '../people/learners';
import { freeText, personColumns, staffName } from '../person';
import { learnerInSegment, learnerInScope, type ViewScope, type Viewer } from '../scope';
import { isStaffMember } from '@/core/staff/rights';

export const AUDIENCES = ['staff', 'self'] as const;
export type Audience = (typeof AUDIENCES)[number];

export interface LabelRow {
  id: number;
  name: string;
  position: number;
}

export async function listLabels(db: Db): Promise<LabelRow[]> {
  return db('label').orderBy(['position', 'id']);
}

export async function addLabel(trx: Db, name: string): Promise<void> {
  const last = await maxOf(trx('label'), 'position');
  await trx('label').insert({ name, position: (last ?? 0) + 1 });
}

export async function renameLabel(trx: Db, id: number, name: string): Promise<void> {
  await trx('label').where({ id }).update({ name });
}

/** Takes a label away, from the notes that carry it too. Returns how many those are. */
export async function removeLabel(trx: Db, id: number): Promise<number> {
  const carried = await trx('note_label').where('label_id', id).delete();
  await trx('label').where({ id }).delete();
  return carried;
}

export interface NoteRow {
  id: number;
  learner_id: string;
  person: number;
  name: string;
  at: number;
  body: string;
  audience: Audience;
  by: string;
  by_id: number;
  pinned_at: number | null;
  labels: string[];
}

/** Condition: a note the viewer may read: their own, or one for staff by anybody where they are staff. */
function readable(viewer: Viewer) {
  return (builder: Knex.QueryBuilder) => {
    builder.whereNull('note.ended_at').where((any) => {
      any.where('note.staff_id', viewer.staffId);
      if (isStaffMember(viewer)) any.orWhere('note.audience', 'staff');
    });
  };
}

export interface NoteSearch extends PageAfter {
  learnerId?: number;
  q?: string;
  label?: string;
  /** Any part of the name of who wrote it. */
  by?: string;
  from?: number;
  /** Not included. */
  to?: number;
  pinned?: boolean;
  /** Not after this instant. */
  until?: number;
}

/** Notes in scope, newest first. */
export async function findNotes(
  db: Db,
  { viewer, segment }: ViewScope,
  search: NoteSearch,
): Promise<{ rows: NoteRow[]; total: number; goesOn: boolean }> {
  const { id, name } = personColumns(viewer);
  const query = () =>
    db('note')
      .join('learner', 'learner.id', 'note.learner_id')
      .where(learnerInScope(db, viewer))
      .where(learnerInSegment(db, segment))
      .where(readable(viewer))
      .modify((q) => {
        if (search.learnerId !== undefined) q.where('note.learner_id', search.learnerId);
        if (search.until !== undefined) q.where('note.at', '<=', search.until);
        if (search.from !== undefined) q.where('note.at', '>=', search.from);
        if (search.to !== undefined) q.where('note.at', '<', search.to);
        if (search.pinned) q.whereNotNull('note.pinned_at');
        if (search.by !== undefined)
          q.whereExists(
            db('staff as author')
              .whereRaw('author.id = note.staff_id')
              .whereRaw(`fold_text(${staffName(viewer, 'author')}) LIKE ? ESCAPE '\\'`, [likePattern(search.by)]),
          );
        for (const word of search.q?.split(/\s+/).filter(Boolean) ?? []) {
          q.whereRaw(
            `fold_text(${freeText(viewer, 'note.body')} || ' ' || ${name} || ' ' || ${id}) LIKE ? ESCAPE '\\'`,
            [likePattern(word)],
          );
        }
        if (search.label !== undefined) {
          q.whereExists(
            db('note_label')
              .join('label', 'label.id', 'note_label.label_id')
              .whereRaw('note_label.note_id = note.id')
              .where('label.name', search.label),
          );
        }
      });
  const total = await countOf(query());
  const found: (Omit<NoteRow, 'labels'> & { labels: string })[] = await query()
    .join('staff', 'staff.id', 'note.staff_id')
    .modify(newestFirst('note.at', 'note.id', search))
    .select(
      'note.id',
      'learner.id as person',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'note.at',
      db.raw(`${freeText(viewer, 'note.body')} AS body`),
      'note.audience',
      db.raw(`${staffName(viewer)} AS "by"`),
      'note.staff_id as by_id',
      'note.pinned_at',
      db.raw(
        `(SELECT json_group_array(label.name ORDER BY label.position) FROM note_label
          JOIN label ON label.id = note_label.label_id WHERE note_label.note_id = note.id) AS labels`,
      ),
    );
  const { rows, goesOn } = cutPage(found, search.limit);
  return {
    rows: rows.map((row) => ({ ...row, labels: JSON.parse(row.labels) })),
    total,
    goesOn,
  };
}

/** The names of those who wrote notes that the viewer may read, in their order. */
export async function noteAuthors(db: Db, viewer: Viewer): Promise<string[]> {
  const rows: { name: string }[] = await db('note')
    .join('learner', 'learner.id', 'note.learner_id')
    .join('staff', 'staff.id', 'note.staff_id')
    .where(learnerInScope(db, viewer))
    .where(readable(viewer))
    .groupBy('staff.id')
    .orderBy(['staff.family_name', 'staff.given_name', 'staff.id'])
    .select(db.raw(`${staffName(viewer)} AS name`));
  return rows.map(({ name }) => name);
}

export async function addNote(
  trx: Db,
  note: { learner_id: number; staff_id: number; at: number; body: string; audience: Audience },
  labelIds: readonly number[],
): Promise<number> {
  const [row] = await trx('note').insert(note).returning('id');
  if (labelIds.length > 0) {
    await trx('note_label').insert(labelIds.map((label_id) => ({ note_id: row.id, label_id })));
  }
  return row.id;
}

/** Takes a note of one's own away, or (null) puts it back. */
export async function endNote(trx: Db, staffId: number, id: number, at: number | null): Promise<boolean> {
  return (await trx('note').where({ id, staff_id: staffId }).update({ ended_at: at })) === 1;
}

/** Pins a note that the viewer may read, or takes the pin away. */
export async function pinNote(trx: Db, viewer: Viewer, id: number, at: number | null): Promise<boolean> {
  const mine = trx('note')
    .join('learner', 'learner.id', 'note.learner_id')
    .where(learnerInScope(trx, viewer))
    .where(readable(viewer))
    .where('note.id', id)
    .select('note.id');
  return (await trx('note').whereIn('id', mine).update({ pinned_at: at })) === 1;
}

export async function labelIds(db: Db, names: readonly string[]): Promise<number[]> {
  return db('label').whereIn('name', names).pluck('id');
}
