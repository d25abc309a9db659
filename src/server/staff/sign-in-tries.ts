/** Tries to come in that did not succeed, counted so that nobody gets through by guessing. */
import { createHash } from 'node:crypto';
import { DAY, HOUR, MINUTE } from '@/core/time/zone';
import { writing, type Db } from '@/data/db';
import { dropTriesBefore, isKnownBrowser, setTries, triesUnder } from '@/data/staff/staff';
import type { Runtime } from '../runtime';

/** Tries that fail without a delay, for typing errors. */
const FREE_TRIES = 3;
const LONGEST_DELAY = 15 * MINUTE;
/** Tries in a minute that did not succeed, of all new browsers together. */
const MOST_A_MINUTE = 60;
/** Wrong tries at one e-mail in an hour, of all browsers in which nobody has signed in to it, before they wait. */
const FREE_STRANGERS = 10;
/** Sign-in refused; `wait` is how many ms must pass before the next try counts. */
export class SignInRefused extends Error {
  override name = 'SignInRefused';
  constructor(
    readonly wait: number,
    why?: string,
  ) {
    super(
      wait > 0
        ? `${why ?? 'That did not match.'} Wait ${Math.ceil(wait / 1000)} s before the next try.`
        : (why ?? 'That e-mail and password do not match.'),
    );
  }
}

export function hashToken(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}

/** Where a try comes from, as far as it can be told. */
export interface SignInFrom {
  address: string;
  /** The token that this browser was given when somebody signed in in it; null in a new one. */
  browser: string | null;
  /** What the browser calls itself. */
  agent: string;
}

/**
 * Counts a try before it is checked, so that many at once are not all let through: under the
 * e-mail and the address together, or under a browser that is known, and in new browsers for the whole
 * installation. @throws SignInRefused when it comes too soon
 */
export async function countTry(
  { db, clock }: Pick<Runtime, 'db' | 'clock'>,
  email: string,
  { address, browser }: SignInFrom,
): Promise<{ key: string; whole: string | null; strangers: string | null; wait: number; isAttack: boolean }> {
  return writing(db, async (trx) => {
    const at = clock.real();
    await dropTriesBefore(trx, at - DAY);
    const isKnown = browser !== null && (await isKnownBrowser(trx, hashToken(browser), email));
    const key = isKnown ? `browser:${hashToken(browser)}` : `pair:${hashToken(`${email.toLowerCase()} ${address}`)}`;
    if (isKnown) return { key, whole: null, strangers: null, wait: await countUnder(trx, key, at), isAttack: false };
    const whole = await countWhole(trx, 'all', at);
    const strangers = `email:${hashToken(email.toLowerCase())}`;
    const tries = await countStranger(trx, strangers, at);
    const wait = await countUnder(trx, key, at);
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

/**
 * Counts one of what the whole installation takes in a minute. Returns what it is counted under.
 * @throws SignInRefused when there were too many
 */
export async function countWhole(trx: Db, of: string, at: number): Promise<string> {
  const minute = Math.floor(at / MINUTE);
  const key = `${of}:${minute}`;
  const { failures } = await triesUnder(trx, key);
  if (failures >= MOST_A_MINUTE) throw new SignInRefused((minute + 1) * MINUTE - at, 'Too many try at once.');
  await setTries(trx, key, { failures: failures + 1, until: 0, at });
  return key;
}

/** Counts a try at what is somebody's own to say, a password or a code, before it is checked. @throws SignInRefused */
export async function countTryUnder({ db, clock }: Pick<Runtime, 'db' | 'clock'>, key: string): Promise<void> {
  await writing(db, (trx) => countUnder(trx, key, clock.real()));
}

/** Wait in ms after so many failures: none at first, then 1 s, 2 s, 4 s … up to 15 minutes. */
export function delayAfter(failures: number): number {
  return failures <= FREE_TRIES ? 0 : Math.min(LONGEST_DELAY, 1000 * 2 ** (failures - FREE_TRIES - 1));
}
