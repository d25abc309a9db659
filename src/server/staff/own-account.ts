/** What somebody sees and changes of their own account: the password, and where they are signed in. */
import { hash } from '@node-rs/argon2';
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import { readStaffSetting, writeStaffSetting } from '@/data/settings';
import type { Viewer } from '@/data/scope';
import { IDLE_SETTING, endOtherSessions, endSessionByHandle, sessionsOf, setPassword } from '@/data/staff/staff';
import { requireOwnPassword } from './second-factor';
import { hashToken } from './sign-in-tries';
import { NewPasswordInput } from './new-password';
import { NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';

export class OwnPasswordInput extends NewPasswordInput {
  @IsNotEmpty({ message: 'is missing' }) @MaxLength(500, { message: 'is too long' }) current!: string;
}

export interface OwnSignIn {
  handle: string;
  /** The browser, in words. */
  agent: string;
  since: number;
  /** When it was last used, to within some minutes. */
  seen: number;
  /** Is it the one that asks? */
  here: boolean;
}

/** Where somebody is signed in. @param token of the session that asks */
export async function ownSignIns({ db, clock }: Runtime, viewer: Viewer, token: string): Promise<OwnSignIn[]> {
  const currentHash = hashToken(token);
  return (await sessionsOf(db, viewer.staffId, clock.now())).map((row) => ({
    handle: row.handle,
    agent: row.agent || 'A browser',
    since: row.created_at,
    seen: row.seen_at,
    here: row.token_hash === currentHash,
  }));
}

/** Ends one of one's own sign-ins. @throws NotFound */
export async function endOwnSignIn({ db }: Runtime, viewer: Viewer, handle: string): Promise<void> {
  if (!(await endSessionByHandle(db, viewer.staffId, String(handle)))) throw new NotFound('No such sign-in');
}

/** Ends all of one's own sign-ins but the one that asks. */
export async function endOtherSignIns({ db }: Runtime, viewer: Viewer, token: string): Promise<void> {
  await endOtherSessions(db, viewer.staffId, hashToken(token));
}

/**
 * Changes one's own password; every other sign-in ends. Wrong tries at the old one are counted as
 * those at the door are. @throws InvalidInput, SignInRefused, NotFound
 */
export async function changeOwnPassword(
  runtime: Runtime,
  viewer: Viewer,
  token: string,
  values: Values,
): Promise<void> {
  const { db, clock } = runtime;
  const input = readInput(OwnPasswordInput, values);
  const staff = await requireOwnPassword(runtime, viewer, input.current);
  const password_hash = await hash(input.password);
  await writing(db, async (trx) => {
    await setPassword(trx, staff.id, password_hash, clock.now());
    await endOtherSessions(trx, staff.id, hashToken(token));
    await addAudit(trx, {
      at: clock.now(),
      staff_id: staff.id,
      what: 'changed their own password',
      subject: staff.external_id,
    });
  });
}

const LETTERS = 'letters';

/** Do single letters do something for this member of staff? They do until switched off. */
export async function hasLetters({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<boolean> {
  return (await readStaffSetting(db, viewer.staffId, LETTERS)) !== 'off';
}

/** Switches single letters on or off for oneself. */
export async function setLetters({ db }: Runtime, viewer: Viewer, on: boolean): Promise<void> {
  await writeStaffSetting(db, viewer.staffId, LETTERS, on ? 'on' : 'off');
}

/** After how long without use one's sign-ins end, in minutes, and in words; without one, by their age alone. */
export const IDLE_CHOICES = [
  ['30', 'half an hour'],
  ['120', 'two hours'],
  ['720', 'half a day'],
  ['', '14 days, as every sign-in does'],
] as const;

export class IdleInput {
  @IsOptional() @IsIn(IDLE_CHOICES.map(([minutes]) => minutes), { message: 'is none of those offered' }) idle?: string;
}

/** Minutes without use after which one's sign-ins end; empty for none set. */
export async function idleMinutes({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<string> {
  return (await readStaffSetting(db, viewer.staffId, IDLE_SETTING)) ?? '';
}

/** Sets after how long without use one's sign-ins end, from the next request on. @throws InvalidInput */
export async function setIdle({ db }: Pick<Runtime, 'db'>, viewer: Viewer, values: Values): Promise<void> {
  const { idle } = readInput(IdleInput, values);
  await writeStaffSetting(db, viewer.staffId, IDLE_SETTING, idle ?? null);
}
