/** Accounts and signing in. */
import { createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength, MinLength } from 'class-validator';
import { STAFF_ROLES, type StaffRole } from '@/core/staff/roles';
import { sayAgent } from '@/core/staff/agent';
import { DAY, HOUR, MINUTE } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { writing, rawTransaction, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { updateStaff } from '@/data/staff/staff-accounts';
import {
  addScope,
  addSession,
  addStaff,
  anyAccount,
  clearTries,
  dropTriesBefore,
  endSession,
  endSessionsOf,
  isKnownBrowser,
  knowBrowser,
  noteSeen,
  setPassword,
  setTries,
  staffByEmail,
  staffBySession,
  takeBackTry,
  triesUnder,
  viewerOf,
} from '@/data/staff/staff';
import { reassignStaffEvents } from '@/data/access/take-access-log';
import { InvalidInput, readInput, type Values } from '../request/input';
import { openMailer } from '../contact/mailer';
import { keepingOneLead } from './one-lead';
import type { Runtime } from '../runtime';
import { SYSTEM_VIEWER } from '../system-viewer';

/** How long a sign-in lasts, in ms. */
export const SESSION_LENGTH = 14 * DAY;
/** Tries that fail without a delay, for typing errors. */
const FREE_TRIES = 3;
const LONGEST_DELAY = 15 * MINUTE;
/** Tries in a minute that did not succeed, of all new browsers together. */
const MOST_A_MINUTE = 60;
/** Wrong tries at one e-mail in an hour, of all browsers in which nobody has signed in to it, before they wait. */
const FREE_STRANGERS = 10;
/** How often it is noted that a session is in use. */
const SEEN_AGAIN = 5 * MINUTE;

const email = { message: 'is not an e-mail address' };
const long = { message: 'needs at least 12 characters' };

class SignIn {
  @IsEmail({}, email) email!: string;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(500, { message: 'is too long' }) password!: string;
}

class NewAccount {
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

/** The cookie that holds a session's token. */
export const SESSION_COOKIE = 'lee_shore_session';

export function hashToken(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

/** Compared with when there is no such account, so that the answer takes as long. */
let nobody: Promise<string> | null = null;

/** Where a try comes from, as far as it can be told. */
export interface SignInFrom {
  address: string;
  /** The token that this browser was given when somebody signed in in it; null in a new one. */
  browser: string | null;
  /** What the browser calls itself. */
  agent: string;
}

export interface SignedIn {
  /** The session's token, which is stored only as its hash. */
  token: string;
  /** The browser's own token, by which it is known the next time. */
  browser: string;
}

/**
 * Counts a try before it is checked, so that many at once are not all let through: under the
 * e-mail and the address together, or under a browser that is known, and in new browsers for the whole
 * installation. @throws SignInRefused when it comes too soon
 */
async function countTry(
  { db, clock }: Pick<Runtime, 'db' | 'clock'>,
  email: string,
  { address, browser }: SignInFrom,
): Promise<{ key: string; whole: string | null; strangers: string | null; wait: number; isAttack: boolean }> {
  return writing(db, async (trx) => {
    const at = clock.real();
    await dropTriesBefore(trx, at - DAY);
    const isKnown = browser !== null && (await isKnownBrowser(trx, hashToken(browser), email));
    const key = isKnown ? `browser:${hashToken(browser)}` : `pair:${hashToken(`${email.toLowerCase()} ${address}`)}`;
    const minute = Math.floor(at / MINUTE);
    if (isKnown) return { key, whole: null, strangers: null, wait: await countUnder(trx, key, at), isAttack: false };
    const [whole, strangers] = [`all:${minute}`, `email:${hashToken(email.toLowerCase())}`];
    const all = await triesUnder(trx, whole);
    if (all.failures >= MOST_A_MINUTE) throw new SignInRefused((minute + 1) * MINUTE - at);
    const tries = await countStranger(trx, strangers, at);
    const wait = await countUnder(trx, key, at);
    await setTries(trx, whole, { failures: all.failures + 1, until: 0, at });
    return { key, whole, strangers, wait: Math.max(wait, tries.wait), isAttack: tries.isAttack };
  });
}

/**
 * Counts a try at an e-mail from a browser in which nobody has signed in to it, from wherever it comes: beyond ten wrong in an
 * hour they wait, each longer than the last. @throws SignInRefused
 */
async function countStranger(trx: Db, key: string, at: number): Promise<{ wait: number; isAttack: boolean }> {
  const { failures, until, at: last = 0 } = await triesUnder(trx, key);
  if (until > at) throw new SignInRefused(until - at);
  const known = at - last > HOUR ? 0 : failures;
  const over = known + 1 - FREE_STRANGERS;
  const wait = over <= 0 ? 0 : Math.min(LONGEST_DELAY, 1000 * 2 ** Math.min(over, 20));
  await setTries(trx, key, { failures: known + 1, until: at + wait, at });
  return { wait, isAttack: over === 1 };
}

/** Counts one more try under a key. Returns how long the next will have to wait. @throws SignInRefused */
async function countUnder(trx: Db, key: string, at: number): Promise<number> {
  const { failures, until } = await triesUnder(trx, key);
  if (until > at) throw new SignInRefused(until - at);
  const wait = delayAfter(failures + 1);
  await setTries(trx, key, { failures: failures + 1, until: at + wait, at });
  return wait;
}

/** Counts a try at a password that is somebody's own to say, before it is checked. @throws SignInRefused */
export async function countTryUnder({ db, clock }: Pick<Runtime, 'db' | 'clock'>, key: string): Promise<void> {
  await writing(db, (trx) => countUnder(trx, key, clock.real()));
}

/**
 * Checks e-mail and password and opens a session. Each failure beyond the third doubles the
 * wait before the next try, for that e-mail from that address.
 * @throws InvalidInput, SignInRefused
 */
export async function signIn(runtime: Runtime, values: Values, from: SignInFrom): Promise<SignedIn> {
  const { db, clock } = runtime;
  const input = readInput(SignIn, values);
  const { key, whole, strangers, wait, isAttack } = await countTry(runtime, input.email, from);
  const staff = await staffByEmail(db, input.email);
  if (isAttack && staff?.password_hash) void tellOfTries(runtime, staff.email);
  nobody ??= hash(randomUUID());
  const matches = await verify(staff?.password_hash ?? (await nobody), input.password);
  if (!staff?.password_hash || staff.ended_at !== null || !matches) throw new SignInRefused(wait);
  const token = randomBytes(32).toString('base64url');
  const browser = from.browser ?? randomBytes(32).toString('base64url');
  const now = clock.now();
  await writing(db, async (trx) => {
    await clearTries(trx, key);
    if (whole !== null) await takeBackTry(trx, whole);
    if (strangers !== null) await clearTries(trx, strangers);
    await knowBrowser(trx, hashToken(browser), staff.id, now);
    await addSession(trx, {
      token_hash: hashToken(token),
      staff_id: staff.id,
      created_at: now,
      expires_at: now + SESSION_LENGTH,
      handle: randomBytes(12).toString('hex'),
      agent: sayAgent(from.agent),
    });
  });
  return { token, browser };
}

/** Tells somebody by mail that many wrong passwords were tried at their e-mail; where no mail can be sent, the log says so. */
async function tellOfTries({ settings, log }: Pick<Runtime, 'settings' | 'log'>, to: string): Promise<void> {
  try {
    const address = { name: 'Lee Shore', address: to };
    const mail = {
      from: address,
      to: address,
      subject: 'Somebody tries to sign in as you',
      text: [
        'More than ten wrong passwords were tried at your e-mail address within an hour, in browsers in which you have',
        'not signed in before. They wait longer and longer now; you are not held up where you have signed in before.',
        '',
        'Nobody has got in by that, and a long password of its own keeps it so. You can change yours under your name.',
      ].join('\n'),
      messageId: `${randomUUID()}@lee-shore`,
    };
    await openMailer(settings.smtpUrl)?.(mail, async () => undefined);
  } catch (error) {
    log.warn({ err: error }, 'the owner of an account could not be told of wrong tries');
  }
}

/** Wait in ms after so many failures: none at first, then 1 s, 2 s, 4 s … up to 15 minutes. */
export function delayAfter(failures: number): number {
  return failures <= FREE_TRIES ? 0 : Math.min(LONGEST_DELAY, 1000 * 2 ** (failures - FREE_TRIES - 1));
}

export async function signOut(db: Db, token: string): Promise<void> {
  await endSession(db, hashToken(token));
}

/**
 * Whose session a token is; null when it ended or never was.
 *
 * @param byItself asked by an open page and by nobody at it: that is no use of the session
 */
export async function viewerBySession({ db, clock }: Runtime, token: string, byItself = false): Promise<Viewer | null> {
  const now = clock.now();
  const staff = await staffBySession(db, hashToken(token), now);
  if (!staff) return null;
  // A sign-in is said to have been used lately, not exactly when: that would be a write for each page.
  if (!byItself && now - staff.seen_at > SEEN_AGAIN) await noteSeen(db, hashToken(token), now).catch(() => undefined);
  return viewerOf(db, staff, staff.names_hidden === 1);
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

/** Makes the first lead's account, on an installation where nobody can sign in yet. @throws InvalidInput */
export async function makeFirstLead(runtime: Runtime, values: Values): Promise<void> {
  const input = readInput(NewAccount, values);
  const refused = new InvalidInput([{ field: 'email', message: 'cannot be the first account: there is one already' }]);
  // Hashing takes its time by design: nobody may ask for it at will.
  if (await anyAccount(runtime.db)) throw refused;
  const password_hash = await hash(input.password);
  await writing(runtime.db, async (trx) => {
    if (await anyAccount(trx)) throw refused;
    await giveAccount(runtime, trx, { ...input, role: 'lead' }, password_hash);
  });
  await rawTransaction(runtime.db, (raw) => reassignStaffEvents(raw, runtime.zone));
}

/**
 * Adds an account, or gives one to a member of staff who came by file: role, scope and password
 * together. A role that is not said stays as it was. A new password ends old sessions.
 * @throws InvalidInput when nobody would lead any more
 */
export async function addAccount(runtime: Runtime, values: Values): Promise<'added' | 'password set'> {
  const input = readInput(NewAccount, values);
  const password_hash = await hash(input.password);
  const done = await writing(runtime.db, (trx) => giveAccount(runtime, trx, input, password_hash));
  await rawTransaction(runtime.db, (raw) => reassignStaffEvents(raw, runtime.zone));
  return done;
}

async function giveAccount(
  { clock }: Pick<Runtime, 'clock'>,
  trx: Db,
  input: NewAccount,
  password_hash: string,
): Promise<'added' | 'password set'> {
  const known = await staffByEmail(trx, input.email);
  const role = input.role ?? known?.role ?? 'mentor';
  const person = { given_name: input.given_name, family_name: input.family_name ?? '', email: input.email };
  const id = known?.id ?? (await addStaff(trx, { external_id: input.email, ...person, role, password_hash }));
  await keepingOneLead(trx, 'role', () => updateStaff(trx, id, { role }));
  await setPassword(trx, id, password_hash, clock.now());
  await endSessionsOf(trx, id);
  if (role === 'lead') await addScope(trx, id, 'all', null);
  await addAudit(trx, {
    at: clock.now(),
    staff_id: null,
    what: known ? 'set a password' : 'added an account',
    subject: known?.external_id ?? input.email,
    changes: known && known.role !== role ? { role: [known.role, role] } : {},
  });
  return known ? 'password set' : 'added';
}
