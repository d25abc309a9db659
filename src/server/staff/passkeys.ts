/** Passkeys (Web Authentication, level 2): signing in by a key that never leaves its owner's device. */
import { isIP } from 'node:net';
import {
  generateAuthenticationOptions,
  generateRegistrationOptions,
  verifyAuthenticationResponse,
  verifyRegistrationResponse,
  type AuthenticationResponseJSON,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
  type RegistrationResponseJSON,
} from '@simplewebauthn/server';
import { IsOptional, MaxLength } from 'class-validator';
import { fullName } from '@/core/people/name';
import { sayAgent } from '@/core/staff/agent';
import { MINUTE } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import {
  addChallenge,
  addPasskey,
  notePasskey,
  passkeyByCredential,
  passkeysOf,
  removePasskey,
  takeChallenge,
  type Passkey,
} from '@/data/staff/passkeys';
import { endHalf } from '@/data/staff/second-factor';
import { clearTries, staffById } from '@/data/staff/staff';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { mayEnterHere } from './provider/rules';
import { keepingSecond, requireHalf, requireOwnPassword, secondKey } from './second-factor';
import { openSession, type SignedIn } from './sessions';
import { SignInRefused, countTryUnder, hashToken, type SignInFrom } from './sign-in-tries';

/** How long somebody may take to touch their device, in ms. */
const CHALLENGE_LENGTH = 5 * MINUTE;
/** Passkeys that somebody has at most. */
const MOST = 20;
/** Letters of an answer of a device at most. */
const LONGEST = 20_000;

/** Where the application is opened, as the browser that asks sees it: a passkey is good there alone. */
export interface Origin {
  /** Such as https://lee-shore.example:4300. */
  origin: string;
  /** Its name without a port. */
  host: string;
}

/** Why no passkey can be used where the application is opened; null where one can. */
export function noPasskeysAt({ origin, host }: Origin): string | null {
  if (isIP(host.replace(/^\[|\]$/g, '')) !== 0) return 'Passkeys need a name in the address, not a number.';
  if (host !== 'localhost' && !origin.startsWith('https:')) return 'Passkeys need an address that begins with https.';
  return null;
}

async function openChallenge({ db, clock }: Runtime, challenge: string, staffId: number | null): Promise<void> {
  const now = clock.now();
  const opened = await writing(db, (trx) =>
    addChallenge(trx, challenge, staffId, { now, expires_at: now + CHALLENGE_LENGTH }),
  );
  if (!opened) throw new SignInRefused(CHALLENGE_LENGTH, 'Too many try at once.');
}

/** What a browser is to ask of a device for a new passkey of one's own. @throws NotFound, InvalidInput */
export async function offerPasskey(
  runtime: Runtime,
  viewer: Viewer,
  { host }: Origin,
): Promise<PublicKeyCredentialCreationOptionsJSON> {
  const staff = await staffById(runtime.db, viewer.staffId);
  if (!staff) throw new NotFound('No such account');
  const known = await passkeysOf(runtime.db, staff.id);
  if (known.length >= MOST)
    throw new InvalidInput([{ field: 'passkeys', message: `are ${MOST} already: take one off` }]);
  const options = await generateRegistrationOptions({
    rpName: 'Lee Shore',
    rpID: host,
    userName: staff.email,
    userDisplayName: fullName(staff),
    userID: new TextEncoder().encode(`staff ${staff.id}`),
    excludeCredentials: known.map(({ credential_id }) => ({ id: credential_id })),
    authenticatorSelection: { residentKey: 'required', userVerification: 'required' },
  });
  await openChallenge(runtime, options.challenge, staff.id);
  return options;
}

export class NewPasskeyInput {
  @IsOptional() @MaxLength(100, { message: 'is longer than 100 characters' }) name?: string;
  @IsOptional() @MaxLength(500, { message: 'is too long' }) current?: string;
}

const refused = () => new InvalidInput([{ field: 'passkey', message: 'could not be checked: try again' }]);

/** An answer of a device, which may be anything. @throws InvalidInput */
function answerOf<T extends { id: string }>(sent: unknown): T {
  const answer = Object(sent) as { id?: unknown; response?: unknown };
  const isWhole = typeof answer.id === 'string' && typeof answer.response === 'object';
  if (!isWhole || JSON.stringify(answer).length > LONGEST) throw refused();
  return answer as T;
}

/** Keeps a new passkey of one's own, as the device answered. @throws InvalidInput, SignInRefused, NotFound */
export async function keepPasskey(
  runtime: Runtime,
  viewer: Viewer,
  where: Origin & { agent: string },
  answer: unknown,
  values: Values,
): Promise<void> {
  const { db, clock } = runtime;
  const input = readInput(NewPasskeyInput, values);
  const staff = await requireOwnPassword(runtime, viewer, input.current);
  const response = answerOf<RegistrationResponseJSON>(answer);
  const { registrationInfo } = await verifyRegistrationResponse({
    response,
    expectedChallenge: (challenge) => writing(db, (trx) => takeChallenge(trx, challenge, staff.id, clock.now())),
    expectedOrigin: where.origin,
    expectedRPID: where.host,
  }).catch((error: unknown) => {
    runtime.log.warn({ err: error }, 'a passkey was not kept');
    throw refused();
  });
  if (!registrationInfo) throw refused();
  const { credential } = registrationInfo;
  const name = input.name ?? sayAgent(where.agent);
  await writing(db, async (trx) => {
    const isNew = await addPasskey(trx, {
      staff_id: staff.id,
      credential_id: credential.id,
      public_key: Buffer.from(credential.publicKey).toString('base64url'),
      counter: credential.counter,
      transports: (credential.transports ?? []).join(','),
      name,
      made_at: clock.now(),
    });
    if (!isNew) throw new InvalidInput([{ field: 'passkey', message: 'is kept already' }]);
    await addAudit(trx, {
      at: clock.now(),
      staff_id: staff.id,
      what: 'set up a second factor',
      subject: `${staff.external_id}: passkey ${name}`,
    });
  });
}

/** A passkey as its owner sees it. */
export type OwnPasskey = Pick<Passkey, 'id' | 'name' | 'made_at' | 'used_at'>;

export async function ownPasskeys({ db }: Runtime, viewer: Viewer): Promise<OwnPasskey[]> {
  return (await passkeysOf(db, viewer.staffId)).map(({ id, name, made_at, used_at }) => ({
    id,
    name,
    made_at,
    used_at,
  }));
}

/** Takes a passkey of one's own off. @throws NotFound, InvalidInput where it is the last that one is asked for, SignInRefused */
export async function removeOwnPasskey(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const staff = await requireOwnPassword(runtime, viewer, readInput(NewPasskeyInput, values).current);
  await writing(runtime.db, async (trx) => {
    await keepingSecond(trx, staff, async () => {
      const name = await removePasskey(trx, staff.id, id);
      if (name === null) throw new NotFound('No such passkey');
      await addAudit(trx, {
        at: runtime.clock.now(),
        staff_id: staff.id,
        what: 'took off a second factor',
        subject: `${staff.external_id}: passkey ${name}`,
      });
    });
  });
}

/**
 * What a browser is to ask of a device for signing in.
 *
 * @param half a sign-in whose password was right; left out, any passkey may answer
 * @throws NotFound where that is over
 */
export async function askPasskey(
  runtime: Runtime,
  { host }: Origin,
  half?: string,
): Promise<PublicKeyCredentialRequestOptionsJSON> {
  const staffId = half === undefined ? null : (await requireHalf(runtime, half)).staff.id;
  const known = staffId === null ? [] : await passkeysOf(runtime.db, staffId);
  const options = await generateAuthenticationOptions({
    rpID: host,
    userVerification: 'required',
    allowCredentials: known.map(({ credential_id }) => ({ id: credential_id })),
  });
  await openChallenge(runtime, options.challenge, staffId);
  return options;
}

/**
 * Signs somebody in by their passkey: the device has asked them for a finger, a face or a number, so that it is both factors.
 *
 * @param half a sign-in whose password was right, which ends by this; left out, whoever's passkey it is comes in
 * @throws InvalidInput, SignInRefused, NotFound
 */
export async function signInByPasskey(
  runtime: Runtime,
  where: Origin,
  answer: unknown,
  from: SignInFrom,
  half?: string,
): Promise<SignedIn> {
  const { db, clock } = runtime;
  const expected = half === undefined ? null : (await requireHalf(runtime, half)).staff.id;
  const response = answerOf<AuthenticationResponseJSON>(answer);
  const passkey = await passkeyByCredential(db, response.id);
  if (!passkey || (expected !== null && passkey.staff_id !== expected)) throw refused();
  const key = secondKey(passkey.staff_id);
  if (expected !== null) await countTryUnder(runtime, key);
  const newCounter = await counterOf(runtime, where, response, passkey, expected);
  return writing(db, async (trx) => {
    const staff = await staffById(trx, passkey.staff_id);
    if (!staff || staff.ended_at !== null || !(await mayEnterHere(trx, staff.id))) throw refused();
    await notePasskey(trx, passkey.id, newCounter, clock.now());
    if (expected !== null) await clearTries(trx, key);
    await endGivenHalf(trx, half);
    return openSession(trx, staff.id, from, clock.now());
  });
}

async function endGivenHalf(trx: Db, half: string | undefined): Promise<void> {
  if (half !== undefined && !(await endHalf(trx, hashToken(half)))) throw new NotFound('No such sign-in');
}

/** Checks what a device signed. Returns its own count. @throws InvalidInput */
async function counterOf(
  { db, clock, log }: Runtime,
  { origin, host }: Origin,
  response: AuthenticationResponseJSON,
  passkey: Passkey,
  expected: number | null,
): Promise<number> {
  try {
    const { verified, authenticationInfo } = await verifyAuthenticationResponse({
      response,
      expectedChallenge: (challenge) => writing(db, (trx) => takeChallenge(trx, challenge, expected, clock.now())),
      expectedOrigin: origin,
      expectedRPID: host,
      credential: {
        id: passkey.credential_id,
        publicKey: new Uint8Array(Buffer.from(passkey.public_key, 'base64url')),
        counter: passkey.counter,
      },
    });
    if (verified) return authenticationInfo.newCounter;
  } catch (error) {
    log.warn({ err: error }, 'a passkey was refused');
  }
  throw refused();
}
