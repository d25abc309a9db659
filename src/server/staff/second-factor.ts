/** The second factor: a code by time or on paper beside the password; passkeys are in a file of their own. */
import { randomBytes, randomInt } from 'node:crypto';
import { verify } from '@node-rs/argon2';
import { IsNotEmpty, IsOptional, MaxLength, ValidateBy } from 'class-validator';
import QRCode from 'qrcode';
import { fullName } from '@/core/people/name';
import {
  RECOVERY_LETTERS,
  isOneTimeSecret,
  newOneTimeSecret,
  oneTimeUri,
  stepOfCode,
  tidyRecoveryCode,
} from '@/core/staff/one-time-code';
import { MINUTE } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import {
  addHalf,
  dropFactors,
  dropSecret,
  endHalf,
  halfByToken,
  noteShown,
  factorsOf,
  keepRecoveryCodes,
  keepSecret,
  secretOf,
  takeStep,
  spendRecoveryCode,
  type Factors,
} from '@/data/staff/second-factor';
import { clearTries, endSessionsOf, staffById, type StaffAccount } from '@/data/staff/staff';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { rolesWithSecond } from './second-factor-roles';
import { openSession, type SignedIn } from './sessions';
import { countTryUnder, hashToken, type SignInFrom } from './sign-in-tries';
import { tellStaff } from './tell-staff';

/** How long somebody whose password was right may take to show the second factor, in ms. */
export const HALF_LENGTH = 10 * MINUTE;
/** Codes on paper that somebody is given. */
const RECOVERY_CODES = 10;

/** Of a sign-in whose password was right: what is good for showing the second factor, and nothing else. */
export interface HalfSignedIn {
  half: string;
}

/** Does somebody have to show a second factor, or to set one up? */
export async function needsSecond(db: Db, { id, role }: Pick<StaffAccount, 'id' | 'role'>): Promise<boolean> {
  const { codes, passkeys } = await factorsOf(db, id);
  return codes || passkeys > 0 || (await rolesWithSecond(db)).includes(role);
}

export async function openHalf(trx: Db, staffId: number, now: number): Promise<string> {
  const half = randomBytes(32).toString('base64url');
  await addHalf(trx, { token_hash: hashToken(half), staff_id: staffId, expires_at: now + HALF_LENGTH }, now);
  return half;
}

/** A half sign-in as its page shows it. */
export interface Half {
  staff: StaffAccount;
  factors: Factors;
  /** Is one to be set up first, as none is there and their role is asked for one? */
  isToSetUp: boolean;
  /** Was it set up just now, and shown by that? */
  isShown: boolean;
}

/** Whose half sign-in it is; null for one that is over, or whose account has ended. */
export async function readHalf({ db, clock }: Runtime, half: string | undefined): Promise<Half | null> {
  if (!half) return null;
  const kept = await halfByToken(db, hashToken(half), clock.now());
  const staff = kept && (await staffById(db, kept.staff_id));
  if (!staff || staff.ended_at !== null) return null;
  const factors = await factorsOf(db, staff.id);
  return { staff, factors, isToSetUp: !factors.codes && factors.passkeys === 0, isShown: kept.is_shown === 1 };
}

/** @throws NotFound */
export async function requireHalf(runtime: Runtime, half: string | undefined): Promise<Half> {
  const found = await readHalf(runtime, half);
  if (!found) throw new NotFound('No such sign-in');
  return found;
}

class CodeInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(40, { message: 'is too long' }) code!: string;
}

const wrong = () => new InvalidInput([{ field: 'code', message: 'is not right: look at the app for the one of now' }]);

/**
 * Ends a half sign-in with a code by time, or one on paper, which is used up by that and told to its owner.
 * @throws InvalidInput, SignInRefused where too many were wrong, NotFound where it is over
 */
export async function showCode(
  runtime: Runtime,
  half: string | undefined,
  values: Values,
  from: SignInFrom,
): Promise<SignedIn> {
  const { db, clock } = runtime;
  const { staff } = await requireHalf(runtime, half);
  const { code } = readInput(CodeInput, values);
  const key = secondKey(staff.id);
  await countTryUnder(runtime, key);
  const { signedIn, isPaper, left } = await writing(db, async (trx) => {
    const now = clock.now();
    const isPaper = await takeCode(runtime, trx, staff.id, code);
    await clearTries(trx, key);
    if (!(await endHalf(trx, hashToken(half!)))) throw new NotFound('No such sign-in');
    if (isPaper)
      await addAudit(trx, { at: now, staff_id: staff.id, what: 'used a recovery code', subject: staff.external_id });
    const { recovery: left } = await factorsOf(trx, staff.id);
    return { signedIn: await openSession(trx, staff.id, from, now), isPaper, left };
  });
  if (isPaper) void tellOfPaper(runtime, staff, left);
  return signedIn;
}

/** What tries at somebody's second factor are counted under. */
export function secondKey(staffId: number): string {
  return `second:${staffId}`;
}

/** Takes a code by time, or one on paper. Returns whether it was on paper. @throws InvalidInput */
async function takeCode({ clock }: Runtime, trx: Db, staffId: number, code: string): Promise<boolean> {
  const secret = await secretOf(trx, staffId);
  const step = secret && stepOfCode(secret.secret, code, clock.real(), secret.last_step);
  if (step !== null && (await takeStep(trx, staffId, step))) return false;
  const paper = tidyRecoveryCode(code);
  if (paper !== null && (await spendRecoveryCode(trx, staffId, hashOfPaper(staffId, paper), clock.now()))) return true;
  throw wrong();
}

const hashOfPaper = (staffId: number, code: string) => hashToken(`recovery ${staffId} ${code}`);

function tellOfPaper(runtime: Runtime, staff: StaffAccount, left: number): Promise<void> {
  return tellStaff(runtime, {
    to: { name: fullName(staff), address: staff.email },
    subject: 'One of your recovery codes was used',
    says: [
      `Somebody signed in as you with your password and a recovery code. ${left} are left; you can make new ones under your name.`,
      'If that was not you, change your password and tell somebody who leads the programme.',
    ],
  });
}

/** What an app is set up with: the secret, and its picture as a data URL. */
export interface OfferedCodes {
  secret: string;
  picture: string;
}

/** A new secret for somebody's app; nothing is kept until a code by it was shown. */
export async function offerCodes(email: string): Promise<OfferedCodes> {
  const secret = newOneTimeSecret();
  return { secret, picture: await QRCode.toDataURL(oneTimeUri(secret, email), { margin: 2, scale: 5 }) };
}

const AsSecret = () =>
  ValidateBy({
    name: 'asSecret',
    validator: {
      validate: (text) => typeof text === 'string' && isOneTimeSecret(text),
      defaultMessage: () => 'is not the one that was offered',
    },
  });

class SetUpCodesInput extends CodeInput {
  @AsSecret() secret!: string;
}

/** Keeps the secret of which a code was shown, and makes codes on paper. @throws InvalidInput */
async function keepCodes(
  { clock }: Runtime,
  trx: Db,
  staff: StaffAccount,
  { secret, code }: SetUpCodesInput,
): Promise<string[]> {
  const step = stepOfCode(secret, code, clock.real(), 0);
  if (step === null) throw wrong();
  await keepSecret(trx, staff.id, { secret, step, at: clock.now() });
  await addAudit(trx, {
    at: clock.now(),
    staff_id: staff.id,
    what: 'set up a second factor',
    subject: `${staff.external_id}: codes by an app`,
  });
  return makePaper(trx, staff.id);
}

async function makePaper(trx: Db, staffId: number): Promise<string[]> {
  const letter = () => RECOVERY_LETTERS[randomInt(RECOVERY_LETTERS.length)];
  const five = () => Array.from({ length: 5 }, letter).join('');
  const codes = Array.from({ length: RECOVERY_CODES }, () => `${five()}-${five()}`);
  await keepRecoveryCodes(
    trx,
    staffId,
    codes.map((code) => hashOfPaper(staffId, code)),
  );
  return codes;
}

/**
 * Sets up an app in a half sign-in of somebody whose role is asked for a second factor and who has none; `goOn` signs them in by
 * that. Returns their codes on paper, which are shown this once. @throws InvalidInput, SignInRefused, NotFound
 */
export async function setUpAtSignIn(runtime: Runtime, half: string | undefined, values: Values): Promise<string[]> {
  const { staff, isToSetUp } = await requireHalf(runtime, half);
  if (!isToSetUp) throw new NotFound('No such sign-in');
  const input = readInput(SetUpCodesInput, values);
  await countTryUnder(runtime, secondKey(staff.id));
  return writing(runtime.db, async (trx) => {
    const codes = await keepCodes(runtime, trx, staff, input);
    await clearTries(trx, secondKey(staff.id));
    await noteShown(trx, hashToken(half!));
    return codes;
  });
}

/** Signs somebody in who has just set up their second factor. @throws NotFound */
export async function goOn(runtime: Runtime, half: string | undefined, from: SignInFrom): Promise<SignedIn> {
  const { staff, isShown } = await requireHalf(runtime, half);
  if (!isShown) throw new NotFound('No such sign-in');
  return writing(runtime.db, async (trx) => {
    if (!(await endHalf(trx, hashToken(half!)))) throw new NotFound('No such sign-in');
    return openSession(trx, staff.id, from, runtime.clock.now());
  });
}

export class OwnPasswordAgain {
  @IsOptional() @MaxLength(500, { message: 'is too long' }) current?: string;
}

export class OwnCodesInput extends SetUpCodesInput {
  @IsOptional() @MaxLength(500, { message: 'is too long' }) current?: string;
}

/**
 * The member of staff who asks, whose password was said once more where they have one: an open page alone changes nothing of how
 * they sign in. @throws InvalidInput, SignInRefused, NotFound
 */
export async function requireOwnPassword(
  runtime: Runtime,
  viewer: Viewer,
  current: string | undefined,
): Promise<StaffAccount> {
  const staff = await staffById(runtime.db, viewer.staffId);
  if (!staff) throw new NotFound('No such account');
  if (staff.password_hash === null) return staff;
  const key = `own:${staff.id}`;
  await countTryUnder(runtime, key);
  if (!(await verify(staff.password_hash, current ?? '')))
    throw new InvalidInput([{ field: 'current', message: 'is not the password you have now' }]);
  await clearTries(runtime.db, key);
  return staff;
}

/** What somebody has to show, and whether their role is asked for it. */
export async function ownSecond({ db }: Runtime, viewer: Viewer): Promise<Factors & { isAskedFor: boolean }> {
  return { ...(await factorsOf(db, viewer.staffId)), isAskedFor: (await rolesWithSecond(db)).includes(viewer.role) };
}

/** Offers somebody a secret for their app. @throws NotFound for whoever has no account */
export async function offerOwnCodes({ db }: Runtime, viewer: Viewer): Promise<OfferedCodes> {
  const staff = await staffById(db, viewer.staffId);
  if (!staff) throw new NotFound('No such account');
  return offerCodes(staff.email);
}

/** Sets up one's own app, or another in its place. Returns the codes on paper. @throws InvalidInput, SignInRefused */
export async function setUpOwnCodes(runtime: Runtime, viewer: Viewer, values: Values): Promise<string[]> {
  const input = readInput(OwnCodesInput, values);
  const staff = await requireOwnPassword(runtime, viewer, input.current);
  return writing(runtime.db, (trx) => keepCodes(runtime, trx, staff, input));
}

/** New codes on paper in place of those before. @throws InvalidInput, SignInRefused, NotFound where there is no second factor */
export async function newOwnPaper(runtime: Runtime, viewer: Viewer, values: Values): Promise<string[]> {
  const staff = await requireOwnPassword(runtime, viewer, readInput(OwnPasswordAgain, values).current);
  const { codes, passkeys } = await factorsOf(runtime.db, staff.id);
  if (!codes && passkeys === 0) throw new NotFound('No second factor');
  return writing(runtime.db, (trx) => makePaper(trx, staff.id));
}

/** Takes one's own app off. @throws InvalidInput where a second factor is asked for and there is no passkey, SignInRefused */
export async function removeOwnCodes(runtime: Runtime, viewer: Viewer, values: Values): Promise<void> {
  const staff = await requireOwnPassword(runtime, viewer, readInput(OwnPasswordAgain, values).current);
  await writing(runtime.db, async (trx) => {
    await keepingSecond(trx, staff, () => dropSecret(trx, staff.id));
    await addAudit(trx, {
      at: runtime.clock.now(),
      staff_id: staff.id,
      what: 'took off a second factor',
      subject: `${staff.external_id}: codes by an app`,
    });
  });
}

/** Does what takes a factor away, unless it was the last of somebody who is asked for one. @throws InvalidInput */
export async function keepingSecond(trx: Db, staff: StaffAccount, work: () => Promise<unknown>): Promise<void> {
  await work();
  const { codes, passkeys } = await factorsOf(trx, staff.id);
  if (codes || passkeys > 0) return;
  if ((await rolesWithSecond(trx)).includes(staff.role))
    throw new InvalidInput([{ field: 'second_factor', message: 'is asked for of your role: set up another first' }]);
  // Codes on paper stand in for another factor, and are none of themselves.
  await dropFactors(trx, staff.id);
}

/**
 * Takes off all second factors of somebody who has lost them; whatever they had signed in ends. By a lead, or from the shell.
 * @throws NotFound where they have none
 */
export async function resetSecond(runtime: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  const staff = await writing(runtime.db, async (trx) => {
    const staff = await staffById(trx, id);
    if (!staff || !(await dropFactors(trx, id))) throw new NotFound('No second factor');
    await endSessionsOf(trx, id);
    await addAudit(trx, {
      at: runtime.clock.now(),
      staff_id: viewer.staffId,
      what: 'took off somebody’s second factor',
      subject: `${fullName(staff)} (${staff.external_id})`,
    });
    return staff;
  });
  void tellStaff(runtime, {
    to: { name: fullName(staff), address: staff.email },
    subject: 'Your second factor was taken off',
    says: [
      'Somebody who leads the programme took your second factor off: you sign in with your password alone until you set one up again. Everything that was signed in has ended.',
      'If you did not ask for that, tell them at once.',
    ],
  });
}
