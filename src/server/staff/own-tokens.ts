/** Tokens of one's own, with which programs use the API in one's name. */
import { randomBytes } from 'node:crypto';
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { DAY, MINUTE } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { findSegment, segmentChoices } from '@/data/courses/segments';
import { writing } from '@/data/db';
import type { Segment, Viewer } from '@/data/scope';
import {
  addOwnToken,
  allTokens,
  coursesOfGroups,
  endToken,
  namesOfScopes,
  noteTokenUsed,
  ownTokenByHash,
  ownTokensOf,
  type OwnToken,
  type TokenScope,
} from '@/data/staff/own-tokens';
import { staffById, viewerOf } from '@/data/staff/staff';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import { segmentNames } from '../request/segment-names';
import type { Runtime } from '../runtime';
import { requireOwnPassword } from './second-factor';
import { hashToken } from './sign-in-tries';

/** How a token of somebody's own begins: whoever finds one somewhere knows what it is. */
export const TOKEN_PREFIX = 'lee_';
/** How often it is noted that a token is in use, in ms. */
const USED_AGAIN = 5 * MINUTE;
/** Tokens that somebody has at most. */
const MOST = 50;

/** How long a token may be good for, in days. */
const TOKEN_DAYS = ['7', '30', '90', '365'] as const;

export class TokenInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(100, { message: 'is longer than 100 characters' }) name!: string;
  @IsIn(['read', 'write'], { message: 'is neither read nor write' }) may!: string;
  @IsIn(TOKEN_DAYS, { message: `is not one of ${TOKEN_DAYS.join(', ')}` }) days!: string;
  /** A part such as `course:DRY`; empty for all that one sees. */
  @IsOptional() @MaxLength(300, { message: 'is too long' }) part?: string;
  @IsOptional() @MaxLength(500, { message: 'is too long' }) current?: string;
}

/** A token as it is shown: never its word, which is not kept. */
export interface ShownToken {
  id: number;
  name: string;
  /** Whose it is; only where all are listed. */
  by: string | null;
  mayWrite: boolean;
  /** What it sees, in words; null for all that its owner sees. */
  sees: string[] | null;
  made: number;
  expires: number;
  used: number | null;
}

/**
 * Makes a token, in one's own scope or in a part of it. Returns its word, which is shown this once.
 * @throws InvalidInput, SignInRefused, NotFound for whoever has no account
 */
export async function makeToken(runtime: Runtime, viewer: Viewer, values: Values): Promise<string> {
  const { db, clock } = runtime;
  const { name, may, days, part, current } = readInput(TokenInput, values);
  const staff = await requireOwnPassword(runtime, viewer, current);
  const scopes = part === undefined ? null : [await scopeOf(runtime, viewer, part)];
  const word = `${TOKEN_PREFIX}${randomBytes(32).toString('base64url')}`;
  const now = clock.now();
  await writing(db, async (trx) => {
    if ((await ownTokensOf(trx, viewer, now)).length >= MOST)
      throw new InvalidInput([{ field: 'tokens', message: `are ${MOST} already: end one first` }]);
    await addOwnToken(trx, {
      staff_id: staff.id,
      name,
      token_hash: hashToken(word),
      may_write: may === 'write',
      scopes,
      made_at: now,
      expires_at: now + Number(days) * DAY,
    });
    const sees = scopes === null ? 'all that they see' : scopes.map(await namesOfScopes(trx, scopes)).join(', ');
    await addAudit(trx, {
      at: now,
      staff_id: staff.id,
      what: 'made a token',
      subject: `${name}: ${may}, ${sees}, ${days} days`,
    });
  });
  return word;
}

/** The part of one's own that is meant. @throws InvalidInput where it is not one's own whole */
async function scopeOf({ db }: Runtime, viewer: Viewer, part: string): Promise<TokenScope> {
  const found = await findSegment(db, viewer, segmentNames(part));
  const scope = found && partOf(found);
  if (scope === null || !(await isOwn(db, viewer, [scope]))[0])
    throw new InvalidInput([{ field: 'part', message: 'is not yours as a whole' }]);
  return scope;
}

function partOf({ courseId, groupId, organisationId }: Segment): TokenScope | null {
  if (groupId !== undefined) return { kind: 'group', id: groupId };
  if (courseId !== undefined) return { kind: 'course', id: courseId };
  return organisationId === undefined ? null : { kind: 'organisation', id: organisationId };
}

/** Which of some parts somebody sees as a whole. */
async function isOwn(db: Runtime['db'], viewer: Viewer, scopes: readonly TokenScope[]): Promise<boolean[]> {
  const groups = scopes.filter(({ kind }) => kind === 'group').map(({ id }) => id);
  const courses = await coursesOfGroups(db, groups);
  return scopes.map(({ kind, id }) => {
    if (viewer.all) return true;
    if (kind === 'organisation') return viewer.organisations.includes(id);
    if (kind === 'course') return viewer.courses.includes(id);
    return viewer.groups.includes(id) || viewer.courses.includes(courses.get(id) ?? -1);
  });
}

/** Somebody by a token of theirs: with their scope as it is now, and no more than the token's. */
export interface TokenBearer {
  viewer: Viewer;
  mayWrite: boolean;
  /** What the token is called. */
  token: string;
}

/** Who asks with a token; null for one that has ended, or whose owner has left. */
export async function bearerOfToken({ db, clock }: Runtime, word: string): Promise<TokenBearer | null> {
  const now = clock.now();
  const token = await ownTokenByHash(db, hashToken(word), now);
  const staff = token && (await staffById(db, token.staff_id));
  if (!token || !staff || staff.ended_at !== null) return null;
  if (token.used_at === null || now - token.used_at > USED_AGAIN)
    await noteTokenUsed(db, token.id, now).catch(() => undefined);
  const owner = await viewerOf(db, staff);
  const viewer = narrowed(owner, token, await stillOwn(db, owner, token));
  return { viewer, mayWrite: token.may_write, token: token.name };
}

/** The parts of a token that its owner still sees as a whole. */
async function stillOwn(db: Runtime['db'], viewer: Viewer, { scopes }: OwnToken): Promise<TokenScope[]> {
  const own = await isOwn(db, viewer, scopes ?? []);
  return (scopes ?? []).filter((_, index) => own[index]);
}

function narrowed(viewer: Viewer, { scopes }: OwnToken, parts: readonly TokenScope[]): Viewer {
  if (scopes === null) return viewer;
  const idsOf = (kind: TokenScope['kind']) => parts.filter((one) => one.kind === kind).map(({ id }) => id);
  return {
    ...viewer,
    all: false,
    organisations: idsOf('organisation'),
    courses: idsOf('course'),
    groups: idsOf('group'),
    learners: [],
  };
}

async function show(
  { db }: Pick<Runtime, 'db'>,
  tokens: readonly (OwnToken & { by?: string })[],
): Promise<ShownToken[]> {
  const nameOf = await namesOfScopes(
    db,
    tokens.flatMap(({ scopes }) => scopes ?? []),
  );
  return tokens.map(({ id, name, by, may_write, scopes, made_at, expires_at, used_at }) => ({
    id,
    name,
    by: by ?? null,
    mayWrite: may_write,
    sees: scopes && scopes.flatMap((scope) => nameOf(scope) ?? []),
    made: made_at,
    expires: expires_at,
    used: used_at,
  }));
}

/** The parts that a token of one's own can be limited to: those that one sees as a whole. */
export async function ownParts({ db }: Runtime, viewer: Viewer): Promise<{ key: string; label: string }[]> {
  const choices = await segmentChoices(db, viewer);
  const scopes = choices.map(({ segment }) => partOf(segment)!);
  const own = await isOwn(db, viewer, scopes);
  return choices.filter((_, index) => own[index]).map(({ key, label }) => ({ key, label }));
}

/** One's own tokens that are open. */
export async function ownTokens(runtime: Runtime, viewer: Viewer): Promise<ShownToken[]> {
  return show(runtime, await ownTokensOf(runtime.db, viewer, runtime.clock.now()));
}

/** Every token that is open, for leads. @throws NotFound for anybody else */
export async function everyToken(runtime: Runtime, viewer: Viewer): Promise<ShownToken[]> {
  requireLead(viewer);
  return show(runtime, await allTokens(runtime.db, viewer, runtime.clock.now()));
}

/** Ends a token of one's own: what is asked with it is refused from now on. @throws NotFound */
export async function endOwnToken(runtime: Runtime, viewer: Viewer, id: number): Promise<void> {
  await end(runtime, viewer, id, viewer.staffId);
}

/** Ends anybody's token, by a lead. @throws NotFound */
export async function endAnyToken(runtime: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  await end(runtime, viewer, id, null);
}

async function end({ db, clock }: Runtime, viewer: Viewer, id: number, staffId: number | null): Promise<void> {
  await writing(db, async (trx) => {
    const at = clock.now();
    const ended = await endToken(trx, id, { staffId, by: viewer.staffId || null, at });
    if (!ended) throw new NotFound('No such token');
    const whose = (await staffById(trx, ended.staff_id))!.external_id;
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'ended a token', subject: `${ended.name}, of ${whose}` });
  });
}
