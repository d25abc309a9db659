/** Accounts and signing in. */
import { randomUUID } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { STAFF_ROLES, type StaffRole } from '@/core/staff/roles';
import { reassignStaffEvents } from '@/data/access/actors';
import { addAudit } from '@/data/audit';
import { writing, rawTransaction, type Db } from '@/data/db';
import { updateStaff } from '@/data/staff/staff-accounts';
import {
  addScope,
  addStaff,
  anyAccount,
  clearTries,
  endSessionsOf,
  setPassword,
  staffByEmail,
  takeBackTry,
  type StaffAccount,
} from '@/data/staff/staff';
import { InvalidInput, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { NewPasswordInput } from './new-password';
import { keepingOneLead } from './one-lead';
import { mayEnterHere } from './provider/rules';
import { needsSecond, openHalf, type HalfSignedIn } from './second-factor';
import { openSession, type SignedIn } from './sessions';
import { SignInRefused, countTry, type SignInFrom } from './sign-in-tries';
import { tellStaff } from './tell-staff';

const email = { message: 'is not an e-mail address' };

class SignIn {
  @IsEmail({}, email) email!: string;
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(500, { message: 'is too long' }) password!: string;
}

class NewAccount extends NewPasswordInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(200, { message: 'is too long' }) given_name!: string;
  @IsOptional() @MaxLength(200, { message: 'is too long' }) family_name?: string;
  @IsEmail({}, email) email!: string;
  @IsOptional() @IsIn(STAFF_ROLES, { message: `is not one of ${STAFF_ROLES.join(', ')}` }) role?: StaffRole;
}

/** Compared with when there is no such account, so that the answer takes as long. */
let nobody: Promise<string> | null = null;

/**
 * Checks e-mail and password and opens a session. Each failure beyond the third doubles the
 * wait before the next try, for that e-mail from that address. Where a second factor is to be shown,
 * no session is opened yet: what comes back is good for showing it alone.
 * @throws InvalidInput, SignInRefused
 */
export async function signIn(runtime: Runtime, values: Values, from: SignInFrom): Promise<SignedIn | HalfSignedIn> {
  const { db, clock } = runtime;
  const input = readInput(SignIn, values);
  const { key, whole, strangers, wait, isAttack } = await countTry(runtime, input.email, from);
  const staff = await staffByEmail(db, input.email);
  if (isAttack && staff?.password_hash) void tellOfTries(runtime, staff);
  nobody ??= hash(randomUUID());
  const matches = await verify(staff?.password_hash ?? (await nobody), input.password);
  if (!staff?.password_hash || staff.ended_at !== null || !matches || !(await mayEnterHere(db, staff.id)))
    throw new SignInRefused(wait);
  const now = clock.now();
  return writing(db, async (trx) => {
    await clearTries(trx, key);
    if (whole !== null) await takeBackTry(trx, whole);
    if (strangers !== null) await clearTries(trx, strangers);
    if (await needsSecond(trx, staff)) return { half: await openHalf(trx, staff.id, now) };
    return openSession(trx, staff.id, from, now);
  });
}

/** Tells somebody by mail that many wrong passwords were tried at their e-mail. */
function tellOfTries(runtime: Runtime, staff: StaffAccount): Promise<void> {
  return tellStaff(runtime, {
    to: { name: fullName(staff), address: staff.email },
    subject: 'Somebody tries to sign in as you',
    says: [
      'More than ten wrong passwords were tried at your e-mail address within an hour, in browsers in which you have not signed in before. They wait longer and longer now; you are not held up where you have signed in before.',
      'Nobody has got in by that, and a long password of its own keeps it so. You can change yours under your name.',
    ],
  });
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
