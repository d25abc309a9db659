/** Tokens of one's own, for programs: kept as hashes, with a scope not above their owner's. */
import type { Db } from '../db';
import { freeText, staffName } from '../person';
import type { Viewer } from '../scope';

/** A part that a token is limited to, by its number. */
export interface TokenScope {
  kind: 'organisation' | 'course' | 'group';
  id: number;
}

export interface OwnToken {
  id: number;
  staff_id: number;
  name: string;
  may_write: boolean;
  /** Null for all that its owner sees. */
  scopes: TokenScope[] | null;
  made_at: number;
  expires_at: number;
  used_at: number | null;
}

/** As it is kept. */
type StoredToken = Omit<OwnToken, 'may_write' | 'scopes'> & { may_write: number; scopes: string | null };

const read = ({ may_write, scopes, ...row }: StoredToken): OwnToken => ({
  ...row,
  may_write: may_write === 1,
  scopes: scopes === null ? null : (JSON.parse(scopes) as TokenScope[]),
});

const COLUMNS = ['id', 'staff_id', 'name', 'may_write', 'scopes', 'made_at', 'expires_at', 'used_at'].map(
  (name) => `own_token.${name}`,
);

/** What its owner wrote, or nothing of it while names are hidden: put in place of the column before it. */
const wordsOf = (db: Db, viewer: Viewer) => db.raw(`${freeText(viewer, 'own_token.name')} AS name`);

export async function addOwnToken(
  trx: Db,
  { scopes, may_write, ...token }: Omit<OwnToken, 'id' | 'used_at'> & { token_hash: string },
): Promise<number> {
  const row = { ...token, may_write: may_write ? 1 : 0, scopes: scopes === null ? null : JSON.stringify(scopes) };
  const [{ id }] = await trx('own_token').insert(row).returning('id');
  return id;
}

/** The token of a word, unless it has ended or is too old. */
export async function ownTokenByHash(db: Db, tokenHash: string, now: number): Promise<OwnToken | null> {
  const row: StoredToken | undefined = await db('own_token')
    .where('token_hash', tokenHash)
    .whereNull('ended_at')
    .where('expires_at', '>', now)
    .first(COLUMNS);
  return row ? read(row) : null;
}

export async function noteTokenUsed(db: Db, id: number, at: number): Promise<void> {
  await db('own_token').where({ id }).update({ used_at: at });
}

/** The tokens of somebody that are open, the newest first. */
export async function ownTokensOf(db: Db, viewer: Viewer, now: number): Promise<OwnToken[]> {
  const rows: StoredToken[] = await db('own_token')
    .where({ staff_id: viewer.staffId })
    .whereNull('ended_at')
    .where('expires_at', '>', now)
    .orderBy('id', 'desc')
    .select(...COLUMNS, wordsOf(db, viewer));
  return rows.map(read);
}

/** Every token that is open, with whose it is. */
export async function allTokens(db: Db, viewer: Viewer, now: number): Promise<(OwnToken & { by: string })[]> {
  const rows: (StoredToken & { by: string })[] = await db('own_token')
    .join('staff', 'staff.id', 'own_token.staff_id')
    .whereNull('own_token.ended_at')
    .whereNull('staff.ended_at')
    .where('own_token.expires_at', '>', now)
    .orderBy('own_token.id', 'desc')
    .select(...COLUMNS, wordsOf(db, viewer), db.raw(`${staffName(viewer)} AS "by"`));
  return rows.map(({ by, ...row }) => ({ ...read(row), by }));
}

/**
 * Ends a token. @param staffId whose it must be; null for anybody's
 * @returns its name and whose it was; null where there is none
 */
export async function endToken(
  trx: Db,
  id: number,
  { staffId, by, at }: { staffId: number | null; by: number | null; at: number },
): Promise<{ name: string; staff_id: number } | null> {
  const row = await trx('own_token')
    .where({ id })
    .whereNull('ended_at')
    .modify((query) => {
      if (staffId !== null) query.where('staff_id', staffId);
    })
    .first('name', 'staff_id');
  if (row) await trx('own_token').where({ id }).update({ ended_at: at, ended_by: by });
  return row ?? null;
}

/** Ends all tokens of somebody. */
export async function endTokensOf(trx: Db, staffId: number, at: number): Promise<void> {
  await trx('own_token').where({ staff_id: staffId }).whereNull('ended_at').update({ ended_at: at });
}

/** The course of each of some groups. */
export async function coursesOfGroups(db: Db, ids: readonly number[]): Promise<Map<number, number>> {
  const rows = await db('course_group').whereIn('id', ids).select('id', 'course_id');
  return new Map(rows.map(({ id, course_id }) => [id, course_id]));
}

/** What parts are called, by kind and number: `course DRY`, `group DRY/A`, `organisation Norrick`; one that is gone has no name. */
export async function namesOfScopes(
  db: Db,
  scopes: readonly TokenScope[],
): Promise<(scope: TokenScope) => string | null> {
  const idsOf = (kind: TokenScope['kind']) => scopes.filter((one) => one.kind === kind).map(({ id }) => id);
  const [courses, groups, organisations] = await Promise.all([
    db('course').whereIn('id', idsOf('course')).select('id', 'code as name'),
    db('course_group as g')
      .join('course', 'course.id', 'g.course_id')
      .whereIn('g.id', idsOf('group'))
      .select('g.id', db.raw("course.code || '/' || g.name AS name")),
    db('organisation').whereIn('id', idsOf('organisation')).select('id', 'name'),
  ]);
  const names = { course: courses, group: groups, organisation: organisations };
  const byKey = new Map(
    Object.entries(names).flatMap(([kind, rows]) => rows.map(({ id, name }) => [`${kind} ${id}`, `${kind} ${name}`])),
  );
  return ({ kind, id }) => byKey.get(`${kind} ${id}`) ?? null;
}
