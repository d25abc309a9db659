/** Accounts and signing in. */
import { createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength, MinLength } from 'class-validator';
import { STAFF_ROLES, type StaffRole } from '@/core/formats/kinds';
import { DAY } from '@/core/time/zone';
import { writing, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import {
  addScope,
  addSession,
  addStaff,
  anyAccount,
  clearSignInDelay,
  endSession,
  endSessionsOf,
  setPassword,
  setSignInDelay,
  signInDelay,
  staffByEmail,
  staffBySession,
  viewerOf,
} from '@/data/staff';
import { InvalidInput, readInput } from './input';
import type { Runtime } from './runtime';
import { SYSTEM_VIEWER } from './system-viewer';

/** How long a sign-in lasts, in ms. */
export const SESSION_LENGTH = 14 * DAY;
/** Tries that fail without a delay, for typing errors. */
const FREE_TRIES = 3;
const LONGEST_DELAY = 15 * 60_000;

const email = { message: 'is not an e-mail address' };
const long = { message: 'needs at least 12 characters' };

export class SignIn {
  @IsEmail({}, email) email!: string;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(500, { message: 'is too long' }) password!: string;
}

export class NewAccount {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(200, { message: 'is too long' }) given_name!: string;
  @IsOptional() @MaxLength(200, { message: 'is too long' }) family_name?: string;
  @IsEmail({}, email) email!: string;
  @MinLength(12, long) @MaxLength(500, { message: 'is too long' }) password!: string;
  @IsOptional() @IsIn(STAFF_ROLES, { message: `is not one of ${STAFF_ROLES.join(', ')}` }) role?: StaffRole;
}

/** Sign-in refused; `wait` is how many ms must pass before the next try counts. */
export class SignInRefused extends Error {
  override name = 'SignInRefused';
  constructor(readonly wait: number) {
    super(
      wait > 0
        ? `That did not match. Wait ${Math.ceil(wait / 1000)} s before the next try.`
        : 'That e-mail and password do not match.',
    );
  }
}

export function hashToken(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

/** Compared with when there is no such account, so that the answer takes as long. */
let nobody: Promise<string> | null = null;

/**
 * Checks e-mail and password and opens a session. Each failure beyond the third doubles the
 * wait before the next try, for that e-mail and for that address.
 * @returns the session's token, which is stored only as its hash
 * @throws InvalidInput, SignInRefused
 */
export async function signIn(runtime: Runtime, values: Record<string, unknown>, address: string): Promise<string> {
  const { db, clock } = runtime;
  const input = readInput(SignIn, values);
  const keys = [`email:${input.email.toLowerCase()}`, `address:${address}`];
  const delays = await Promise.all(keys.map((key) => signInDelay(db, key)));
  const wait = Math.max(...delays.map((delay) => delay.until - clock.real()));
  if (wait > 0) throw new SignInRefused(wait);
  const staff = await staffByEmail(db, input.email);
  nobody ??= hash(randomUUID());
  const matches = await verify(staff?.password_hash ?? (await nobody), input.password);
  if (!staff?.password_hash || staff.ended_at !== null || !matches) {
    const waits = delays.map((delay) => delayAfter(delay.failures + 1));
    await Promise.all(keys.map((key, i) => setSignInDelay(db, key, delays[i].failures + 1, clock.real() + waits[i])));
    throw new SignInRefused(Math.max(...waits));
  }
  await Promise.all(keys.map((key) => clearSignInDelay(db, key)));
  const token = randomBytes(32).toString('base64url');
  const now = clock.now();
  await addSession(db, {
    token_hash: hashToken(token),
    staff_id: staff.id,
    created_at: now,
    expires_at: now + SESSION_LENGTH,
  });
  return token;
}

/** Wait in ms after so many failures: none at first, then 1 s, 2 s, 4 s … up to 15 minutes. */
export function delayAfter(failures: number): number {
  return failures <= FREE_TRIES ? 0 : Math.min(LONGEST_DELAY, 1000 * 2 ** (failures - FREE_TRIES - 1));
}

export async function signOut(db: Db, token: string): Promise<void> {
  await endSession(db, hashToken(token));
}

/** Whose session a token is; null when it ended or never was. */
export async function viewerBySession({ db, clock }: Runtime, token: string): Promise<Viewer | null> {
  const staff = await staffBySession(db, hashToken(token), clock.now());
  return staff && viewerOf(db, staff, staff.covered === 1);
}

/** The viewer of the bearer token in the settings: a lead without an account. */
export function viewerByBearer({ settings }: Runtime, token: string): Viewer | null {
  if (!settings.apiToken || !isSame(token, settings.apiToken)) return null;
  return { ...SYSTEM_VIEWER, name: 'API' };
}

/** May this token bring in mail? The API's may, and the one that is good for nothing else. */
export function mayBringMail({ settings }: Runtime, token: string): boolean {
  return [settings.inboundToken, settings.apiToken].some((right) => right !== null && isSame(token, right));
}

/** Compared in the same time, however much of it is right. */
function isSame(a: string, b: string): boolean {
  const [given, right] = [a, b].map((text) => createHash('sha256').update(text).digest());
  return timingSafeEqual(given, right);
}

/** Makes the first lead's account, on an installation where nobody can sign in yet. */
export async function makeFirstLead(runtime: Runtime, values: Record<string, unknown>): Promise<void> {
  const input = readInput(NewAccount, values);
  const password_hash = await hash(input.password);
  await writing(runtime.db, async (trx) => {
    if (await anyAccount(trx)) {
      throw new InvalidInput([{ field: 'email', message: 'cannot be the first account: there is one already' }]);
    }
    await makeAccount(trx, { ...input, role: 'lead' }, password_hash);
  });
}

/** Adds an account, or gives a member of staff who came by file a password. A new password ends old sessions. */
export async function addAccount(runtime: Runtime, values: Record<string, unknown>): Promise<'added' | 'password set'> {
  const input = readInput(NewAccount, values);
  const password_hash = await hash(input.password);
  return writing(runtime.db, async (trx) => {
    const known = await staffByEmail(trx, input.email);
    if (!known) {
      await makeAccount(trx, input, password_hash);
      return 'added';
    }
    await setPassword(trx, known.id, password_hash);
    await endSessionsOf(trx, known.id);
    return 'password set';
  });
}

async function makeAccount(trx: Db, input: NewAccount, password_hash: string): Promise<void> {
  const known = await staffByEmail(trx, input.email);
  const role = input.role ?? 'mentor';
  if (known) await setPassword(trx, known.id, password_hash);
  const id =
    known?.id ??
    (await addStaff(trx, {
      external_id: input.email,
      given_name: input.given_name,
      family_name: input.family_name ?? '',
      email: input.email,
      role,
      password_hash,
    }));
  if (role === 'lead') await addScope(trx, id, 'all', null);
}
