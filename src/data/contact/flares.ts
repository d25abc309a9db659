/** Flares: calls to everybody around a learner, seen by staff who see the learner and by nobody else. */
import type { Knex } from 'knex';
import { countOf, type Db } from '../db';
import { cutPage, newestFirst, type PageAfter } from '../newest-first';
import { freeText, personColumns, staffName } from '../person';
import { learnerInScope, learnerInSegment, type ViewScope, type Viewer } from '../scope';
import { isStaffMember } from '@/core/staff/rights';

export const FLARE_STATES = ['open', 'ended'] as const;
export type FlareState = (typeof FLARE_STATES)[number];

export interface FlareRow {
  id: number;
  /** The database's id of the learner. */
  person: number;
  learner_id: string;
  name: string;
  /** Null where a program raised it. */
  by: string | null;
  by_id: number | null;
  at: number;
  reason: string;
  asked_at: number;
  ended_at: number | null;
  ended_by: string | null;
  outcome: string | null;
}

/** Somebody who was called. */
export interface FlareCall {
  flare_id: number;
  staff_id: number;
  name: string;
  seen_at: number | null;
  /** How often they were asked. */
  asked: number;
  ended_at: number | null;
}

export interface FlareSearch extends PageAfter {
  id?: number;
  learnerId?: number;
  state?: FlareState;
  /** Not after this instant. */
  until?: number;
  /** Those that this member of staff was called by and has not seen. */
  unseenBy?: number;
}

function inView(db: Db, { viewer, segment }: ViewScope) {
  return (query: Knex.QueryBuilder) => {
    query
      .join('learner', 'learner.id', 'flare.learner_id')
      .where(learnerInScope(db, viewer))
      .where(learnerInSegment(db, segment));
    // What staff call one another for is theirs: a partner's contact is outside of the trust.
    if (!isStaffMember(viewer)) query.whereRaw('0');
  };
}

/** Flares in view, newest first. */
export async function findFlares(
  db: Db,
  scope: ViewScope,
  search: FlareSearch,
): Promise<{ rows: FlareRow[]; total: number; goesOn: boolean }> {
  const { viewer } = scope;
  const { id, name } = personColumns(viewer);
  const query = () =>
    db('flare')
      .modify(inView(db, scope))
      .modify((q) => {
        if (search.id !== undefined) q.where('flare.id', search.id);
        if (search.learnerId !== undefined) q.where('flare.learner_id', search.learnerId);
        if (search.state === 'open') q.whereNull('flare.ended_at');
        if (search.state === 'ended') q.whereNotNull('flare.ended_at');
        if (search.until !== undefined) q.where('flare.at', '<=', search.until);
        if (search.unseenBy !== undefined)
          q.whereExists(
            db('flare_call as mine')
              .whereRaw('mine.flare_id = flare.id AND mine.seen_at IS NULL')
              .where('mine.staff_id', search.unseenBy),
          );
      });
  const [found, total] = await Promise.all([
    query()
      .leftJoin('staff', 'staff.id', 'flare.staff_id')
      .leftJoin('staff as ender', 'ender.id', 'flare.ended_by')
      .modify(newestFirst('flare.at', 'flare.id', search))
      .select(
        'flare.id',
        'learner.id as person',
        db.raw(`${id} AS learner_id`),
        db.raw(`${name} AS name`),
        db.raw(`CASE WHEN staff.id IS NOT NULL THEN ${staffName(viewer)} END AS "by"`),
        'flare.staff_id as by_id',
        'flare.at',
        db.raw(`${freeText(viewer, 'flare.reason')} AS reason`),
        'flare.asked_at',
        'flare.ended_at',
        db.raw(`CASE WHEN ender.id IS NOT NULL THEN ${staffName(viewer, 'ender')} END AS ended_by`),
        db.raw(`${freeText(viewer, 'flare.outcome')} AS outcome`),
      ) as Promise<FlareRow[]>,
    countOf(query()),
  ]);
  return { ...cutPage(found, search.limit), total };
}

/** Whom flares, seen already, have called, in the order of their names. */
export async function callsOf(db: Db, viewer: Viewer, flareIds: readonly number[]): Promise<FlareCall[]> {
  return db('flare_call as c')
    .join('staff', 'staff.id', 'c.staff_id')
    .whereIn('c.flare_id', flareIds)
    .orderBy(['staff.family_name', 'staff.given_name', 'staff.id'])
    .select(
      'c.flare_id',
      'c.staff_id',
      db.raw(`${staffName(viewer)} AS name`),
      'c.seen_at',
      'c.asked',
      'staff.ended_at',
    );
}

/** Open flares that call the viewer, who has not seen them. */
export async function countUnseenFlares(db: Db, viewer: Viewer): Promise<number> {
  const mine = await db('flare_call').where('staff_id', viewer.staffId).whereNull('seen_at').first('flare_id');
  if (!mine) return 0;
  const search = { state: 'open', unseenBy: viewer.staffId, limit: 0 } as const;
  return (await findFlares(db, { viewer, segment: {} }, search)).total;
}

export async function addFlare(
  trx: Db,
  flare: { learner_id: number; staff_id: number | null; at: number; reason: string },
  called: readonly number[],
): Promise<number> {
  const [{ id }] = await trx('flare')
    .insert({ ...flare, asked_at: flare.at })
    .returning('id');
  await trx('flare_call').insert(called.map((staff_id) => ({ flare_id: id, staff_id })));
  return id;
}

/** Notes that somebody has seen a flare; whoever was not called by it as well. The first time stands. */
export async function noteSeen(trx: Db, flareId: number, staffId: number, at: number): Promise<void> {
  await trx.raw(
    `INSERT INTO flare_call (flare_id, staff_id, seen_at, asked) VALUES (?, ?, ?, 0)
     ON CONFLICT DO UPDATE SET seen_at = ifnull(seen_at, excluded.seen_at)`,
    [flareId, staffId, at],
  );
}

/** Ends a flare. Returns whether it was open. */
export async function endFlare(
  trx: Db,
  id: number,
  { at, by, outcome }: { at: number; by: number | null; outcome: string },
): Promise<boolean> {
  const ended = await trx('flare').where({ id }).whereNull('ended_at').update({ ended_at: at, ended_by: by, outcome });
  return ended === 1;
}

/** Open flares last asked before an instant that somebody has not seen: the flare, its learner, and who was asked when. */
export async function flaresToAskAgain(
  db: Db,
  before: number,
): Promise<{ id: number; learner_id: number; staff_id: number | null; asked_at: number; reason: string }[]> {
  return db('flare')
    .whereNull('ended_at')
    .where('asked_at', '<=', before)
    .whereExists(db('flare_call as c').whereRaw('c.flare_id = flare.id AND c.seen_at IS NULL'))
    .orderBy('id')
    .select('id', 'learner_id', 'staff_id', 'asked_at', 'reason');
}

/** Notes that some were asked again, unless another process has. Returns whether this one did. */
export async function noteAskedAgain(
  trx: Db,
  { id, asked_at }: { id: number; asked_at: number },
  staffIds: readonly number[],
  at: number,
): Promise<boolean> {
  if ((await trx('flare').where({ id, asked_at }).whereNull('ended_at').update({ asked_at: at })) !== 1) return false;
  await trx('flare_call').where('flare_id', id).whereIn('staff_id', staffIds).increment('asked', 1);
  return true;
}

/** Who was called by a flare and has not seen it, without those who have left. */
export async function notSeenBy(db: Db, flareId: number): Promise<number[]> {
  return db('flare_call as c')
    .join('staff', 'staff.id', 'c.staff_id')
    .where('c.flare_id', flareId)
    .whereNull('c.seen_at')
    .whereNull('staff.ended_at')
    .pluck('c.staff_id');
}
