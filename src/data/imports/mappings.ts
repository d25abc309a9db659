/** Remembered mappings of sources' files, and of their words for actions. */
import type { ActionKind } from '@/core/access/kinds';
import type { FileKindName } from '@/core/imports/kinds';
import type { Mapping } from '@/core/imports/mapping';
import { countOf, type Db, type RawConnection } from '../db';
import { openTouch } from '../access/touched';
import { idList } from '../view';

export async function findMapping(db: Db, source: string, kind: FileKindName): Promise<Mapping | null> {
  const row = await db('mapping').where({ source, kind }).first('spec');
  return row ? JSON.parse(row.spec) : null;
}

export async function keepMapping(db: Db, source: string, kind: FileKindName, mapping: Mapping): Promise<void> {
  await db('mapping')
    .insert({ source, kind, spec: JSON.stringify(mapping) })
    .onConflict(['source', 'kind'])
    .merge();
}

export interface RememberedMapping {
  source: string;
  kind: FileKindName;
  mapping: Mapping;
}

export async function listMappings(db: Db): Promise<RememberedMapping[]> {
  const rows = await db('mapping').orderBy(['source', 'kind']);
  return rows.map(({ source, kind, spec }) => ({ source, kind, mapping: JSON.parse(spec) }));
}

export async function forgetMapping(db: Db, source: string, kind: FileKindName): Promise<void> {
  await db('mapping').where({ source, kind }).delete();
}

export interface ActionRow {
  id: number;
  word: string;
  kind: ActionKind;
  /** Events that have it. */
  events: number;
  /** Known, or said by a person; else it is *other* until somebody says. */
  settled: number;
  /** Figures that rest on it are being made anew. */
  derive_anew: number;
}

/** Every word for an action, those that nobody has settled first, then by how often they occur. */
export async function listActions(db: Db): Promise<ActionRow[]> {
  return db('action').orderBy([{ column: 'settled' }, { column: 'events', order: 'desc' }, { column: 'word' }]);
}

export async function countUnsettledActions(db: Db): Promise<number> {
  return countOf(db('action').where('settled', 0));
}

export async function setActionKind(trx: Db, id: number, kind: ActionKind): Promise<ActionRow | null> {
  const before: ActionRow | undefined = await trx('action').where({ id }).first();
  if (!before) return null;
  const derive_anew = before.kind === kind ? before.derive_anew : 1;
  await trx('action').where({ id }).update({ kind, settled: 1, derive_anew });
  return before;
}

/** A word whose events have to be derived anew, since it means something else now; null when there is none. */
export function actionToDerive(raw: RawConnection): { id: number; kind: ActionKind } | null {
  const found = raw.prepare('SELECT id, kind FROM action WHERE derive_anew = 1 LIMIT 1').get();
  return (found as { id: number; kind: ActionKind } | undefined) ?? null;
}

/** Whose figures rest on a word: learner, first and last instant. A long look, so outside of any transaction. */
export function learnersOfAction(raw: RawConnection, actionId: number): [learner: number, from: number, to: number][] {
  return raw
    .prepare(
      `SELECT learner_id, min(at), max(at) FROM event WHERE action_id = ? AND learner_id IS NOT NULL GROUP BY learner_id`,
    )
    .raw()
    .all(actionId) as [number, number, number][];
}

/** Marks learners touched by a word, and the word as done with, unless its kind has changed once more. */
export function touchForAction(
  raw: RawConnection,
  { id, kind }: { id: number; kind: ActionKind },
  learners: readonly [learner: number, from: number, to: number][],
): void {
  const touch = openTouch(raw);
  for (const [learnerId, from, to] of learners) touch(learnerId, from, to);
  raw.prepare('UPDATE action SET derive_anew = 0 WHERE id = ? AND kind = ?').run(id, kind);
}

export async function findAction(db: Db, word: string): Promise<{ id: number; kind: ActionKind } | null> {
  return (await db('action').where({ word }).first('id', 'kind')) ?? null;
}

export async function actionsOfKinds(db: Db, kinds: readonly ActionKind[]): Promise<number[]> {
  return db('action')
    .whereIn('kind', [...kinds])
    .pluck('id');
}

/** Every word that the log of some courses has used for an action. */
export async function actionWords(db: Db, courseIds: readonly number[]): Promise<string[]> {
  return db('action')
    .whereExists(
      db('course_day')
        .whereRaw('course_day.action_id = action.id')
        .whereIn('course_day.course_id', idList(db, courseIds))
        .where('course_day.events', '>', 0),
    )
    .orderBy('word')
    .pluck('word');
}

/**
 * How many events have one of these actions, and what share of the log that is: of the whole log, or of that of
 * some courses, for those who see no more.
 */
export async function eventsOfActions(
  db: Db,
  actionIds: readonly number[],
  courseIds?: readonly number[],
): Promise<{ own: number; share: number }> {
  const events = courseIds
    ? db('course_day').whereIn('course_id', idList(db, courseIds)).select('action_id as id', 'events')
    : db('action').select('id', 'events');
  const [sum] = await db
    .from(events.as('counted'))
    .select(
      db.raw('total(events) AS "all"'),
      db.raw('total(CASE WHEN id IN (SELECT value FROM json_each(?)) THEN events END) AS own', [
        JSON.stringify(actionIds),
      ]),
    );
  return { own: sum.own, share: sum.all === 0 ? 0 : sum.own / sum.all };
}
