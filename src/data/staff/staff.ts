/** Staff, their scopes and their sessions. */
import { fullName } from '@/core/people/name';
import { randomBytes } from 'node:crypto';
import type { Knex } from 'knex';
import type { ScopeKind, StaffRole } from '@/core/staff/roles';
import { MINUTE } from '@/core/time/zone';
import type { Db } from '../db';
import type { Viewer } from '../scope';
import { readSetting } from '../settings';
import { endLinksOf } from './password-links';
import { endTokensOf } from './own-tokens';
import { endHalvesOf } from './second-factor';

export interface StaffAccount {
  id: number;
  external_id: string;
  given_name: string;
  family_name: string;
  email: string;
  role: StaffRole;
  password_hash: string | null;
  ended_at: number | null;
}

export async function staffByEmail(db: Db, email: string): Promise<StaffAccount | null> {
  return (await db<StaffAccount>('staff').where('email', email).first()) ?? null;
}

/** Is there anybody who can sign in? */
export async function anyAccount(db: Db): Promise<boolean> {
  return Boolean(await db('staff').whereNotNull('password_hash').first('id'));
}

/** Sets a password; whatever let in by the old one without asking for it, such as addresses of calendars and tokens, ends, and so do links to set one. */
export async function setPassword(db: Db, staffId: number, hash: string, at: number): Promise<void> {
  await db('staff').where({ id: staffId }).update({ password_hash: hash });
  await endFeedsOf(db, staffId, at);
  await endLinksOf(db, staffId, at);
  await endHalvesOf(db, staffId);
  await endTokensOf(db, staffId, at);
}

/** Ends somebody's addresses of calendars for good: they do not come back with the account. */
export async function endFeedsOf(db: Db, staffId: number, at: number): Promise<void> {
  await db('calendar_feed').where({ staff_id: staffId }).whereNull('ended_at').update({ ended_at: at });
}

export type NewStaff = Omit<StaffAccount, 'id' | 'ended_at'>;

/** Adds somebody. Where their id is another's already, who had this e-mail once, it gets a number. Returns their number. */
export async function addStaff(db: Db, staff: NewStaff): Promise<number> {
  let external_id = staff.external_id;
  for (let n = 2; await db('staff').where({ external_id }).first('id'); n++) external_id = `${staff.external_id} ${n}`;
  const [row] = await db('staff')
    .insert({ ...staff, external_id })
    .returning('id');
  return row.id;
}

/** Gives a scope by hand: where a claim or a launch gave it before, it goes with those no more. */
export async function addScope(db: Db, staffId: number, kind: ScopeKind, targetId: number | null): Promise<void> {
  const columns = { organisation: 'organisation_id', course: 'course_id', group: 'group_id', learner: 'learner_id' };
  const target = kind === 'all' ? {} : { [columns[kind]]: targetId };
  const scope = { staff_id: staffId, kind, ...target };
  await db('staff_scope').insert(scope).onConflict().ignore();
  await db('staff_scope').where(scope).update({ by_claim: 0, platform_course_id: null });
}

/** The viewer a member of staff is, with all their scopes; with names hidden when asked for. */
export async function viewerOf(db: Db, staff: StaffAccount, namesHidden = false): Promise<Viewer> {
  const scopes = await db('staff_scope').where({ staff_id: staff.id });
  const ids = (kind: ScopeKind, column: `${Exclude<ScopeKind, 'all'>}_id`): number[] =>
    scopes.filter((scope) => scope.kind === kind).flatMap((scope) => scope[column] ?? []);
  return {
    staffId: staff.id,
    role: staff.role,
    name: namesHidden ? `Staff ${staff.id}` : fullName(staff),
    standInKey: namesHidden ? await standInKey(db) : null,
    all: scopes.some((scope) => scope.kind === 'all'),
    organisations: ids('organisation', 'organisation_id'),
    courses: ids('course', 'course_id'),
    groups: ids('group', 'group_id'),
    learners: ids('learner', 'learner_id'),
  };
}

/** The installation's own key for stand-ins, made when it is first asked for. */
async function standInKey(db: Db): Promise<string> {
  const stored = await readSetting(db, 'stand_in_key');
  if (stored !== null) return stored;
  const value = randomBytes(16).toString('hex');
  await db('setting').insert({ name: 'stand_in_key', value }).onConflict('name').ignore();
  return (await readSetting(db, 'stand_in_key'))!;
}

export interface NewSession {
  token_hash: string;
  staff_id: number;
  created_at: number;
  expires_at: number;
  /** What the session is named by, to whoever may end it. */
  handle: string;
  /** The browser, in words. */
  agent: string;
  /** Was it opened by a provider's word, 1, or with a password or a passkey of ours, 0? */
  by_provider?: number;
}

/** Whose word opened a session: one's own (a password, a passkey), that of the provider of single sign-on, or a platform's. */
export const OPENED_BY = { password: 0, provider: 1, platform: 2 } as const;

export async function addSession(db: Db, session: NewSession) {
  await db('session_token').where('expires_at', '<', session.created_at).delete();
  await db('session_token').insert({ ...session, seen_at: session.created_at });
}

export interface SessionRow {
  handle: string;
  agent: string;
  created_at: number;
  seen_at: number;
  token_hash: string;
}

/** What somebody has set: minutes without use after which a sign-in of theirs ends. */
export const IDLE_SETTING = 'idle_minutes';

/** Condition: the session has not ended, neither by its age nor by lying unused for as long as its owner lets it. */
function isOpen(now: number) {
  return (query: Knex.QueryBuilder) =>
    query.where('session_token.expires_at', '>', now).whereRaw(
      `ifnull((SELECT session_token.seen_at + value * ${MINUTE} > ? FROM staff_setting
         WHERE staff_id = session_token.staff_id AND name = ?), 1)`,
      [now, IDLE_SETTING],
    );
}

/** The sessions of somebody that are open, the last used first. */
export async function sessionsOf(db: Db, staffId: number, now: number): Promise<SessionRow[]> {
  return db('session_token')
    .where('staff_id', staffId)
    .modify(isOpen(now))
    .orderBy([{ column: 'seen_at', order: 'desc' }, { column: 'handle' }])
    .select('handle', 'agent', 'created_at', 'seen_at', 'token_hash');
}

/** Ends one session of somebody's own; false when it is none of theirs. */
export async function endSessionByHandle(db: Db, staffId: number, handle: string): Promise<boolean> {
  return (await db('session_token').where({ staff_id: staffId, handle }).delete()) > 0;
}

/** Ends every session of somebody but one. */
export async function endOtherSessions(db: Db, staffId: number, tokenHash: string): Promise<void> {
  await db('session_token').where('staff_id', staffId).whereNot('token_hash', tokenHash).delete();
}

export async function noteSeen(db: Db, tokenHash: string, at: number): Promise<void> {
  await db('session_token').where('token_hash', tokenHash).update({ seen_at: at });
}

/** Covers names in one session, or show them. */
export async function storeNamesHidden(db: Db, tokenHash: string, namesHidden: boolean): Promise<void> {
  await db('session_token')
    .where('token_hash', tokenHash)
    .update({ names_hidden: namesHidden ? 1 : 0 });
}

export async function staffBySession(
  db: Db,
  tokenHash: string,
  now: number,
): Promise<(StaffAccount & { names_hidden: number; seen_at: number }) | null> {
  const row = await db('session_token')
    .join('staff', 'staff.id', 'session_token.staff_id')
    .where('token_hash', tokenHash)
    .modify(isOpen(now))
    .whereNull('staff.ended_at')
    .first('staff.*', 'session_token.names_hidden', 'session_token.seen_at');
  return row ?? null;
}

export async function endSession(db: Db, tokenHash: string): Promise<void> {
  await db('session_token').where('token_hash', tokenHash).delete();
}

/** Ends every session that was opened with a password or a passkey, but for those of some. */
export async function endPasswordSessions(db: Db, but: readonly number[]): Promise<void> {
  await db('session_token').where('by_provider', OPENED_BY.password).whereNotIn('staff_id', but).delete();
}

/** Was a session opened by a provider's word? */
export async function isByProvider(db: Db, tokenHash: string): Promise<boolean> {
  return Boolean(
    await db('session_token').where({ token_hash: tokenHash, by_provider: OPENED_BY.provider }).first('staff_id'),
  );
}

export async function endSessionsOf(db: Db, staffId: number): Promise<void> {
  await db('session_token').where('staff_id', staffId).delete();
}

/** Tries under a key that have not succeeded, and when the next one is allowed. */
export async function triesUnder(db: Db, key: string): Promise<{ failures: number; until: number; at?: number }> {
  return (await db('sign_in_try').where({ key }).first('failures', 'until', 'at')) ?? { failures: 0, until: 0 };
}

export async function setTries(
  db: Db,
  key: string,
  { failures, until, at }: { failures: number; until: number; at: number },
): Promise<void> {
  await db('sign_in_try').insert({ key, failures, until, at }).onConflict('key').merge();
}

export async function clearTries(db: Db, key: string): Promise<void> {
  await db('sign_in_try').where({ key }).delete();
}

/** One try under a key was none after all. */
export async function takeBackTry(db: Db, key: string): Promise<void> {
  await db('sign_in_try').where({ key }).where('failures', '>', 0).decrement('failures', 1);
}

/** Tries of before an instant go. */
export async function dropTriesBefore(db: Db, at: number): Promise<void> {
  await db('sign_in_try').where('at', '<', at).delete();
}

/** Has somebody with this e-mail signed in in this browser before? */
export async function isKnownBrowser(db: Db, tokenHash: string, email: string): Promise<boolean> {
  return Boolean(
    await db('known_browser')
      .join('staff', 'staff.id', 'known_browser.staff_id')
      .where('known_browser.token_hash', tokenHash)
      .where('staff.email', email)
      .first('staff.id'),
  );
}

/** Browsers that are remembered for each person: the last ones. */
const BROWSERS_KEPT = 20;

export async function knowBrowser(db: Db, tokenHash: string, staffId: number, at: number): Promise<void> {
  await db('known_browser')
    .insert({ token_hash: tokenHash, staff_id: staffId, at })
    .onConflict(['token_hash', 'staff_id'])
    .merge();
  const kept = db('known_browser')
    .where('staff_id', staffId)
    .orderBy('at', 'desc')
    .limit(BROWSERS_KEPT)
    .select('token_hash');
  await db('known_browser').where('staff_id', staffId).whereNotIn('token_hash', kept).delete();
}

export async function staffById(db: Db, id: number): Promise<StaffAccount | null> {
  return (await db<StaffAccount>('staff').where({ id }).first()) ?? null;
}
