/** Checking oneself in: the code on the screen, and when it is good. */
import { generateSecret, generateSync, verifySync } from 'otplib';
import { MINUTE } from '../time/zone';

/** Seconds for which a code stands; the one before is good as well (RFC 6238, one step of grace). */
const CODE_STEP = 20;
const DIGITS = 6;
/** Minutes before the start from which one may come. */
const EARLY = 10;
/** Wrong codes in a row before a device pauses, and for how long, in ms. */
export const WRONG_CODES = 5;
export const PAUSE = MINUTE;

/** What became of somebody who checked in: in; refused, as the device had checked in another; or accepted after that. */
export type CheckInState = 'in' | 'refused' | 'accepted';

/** The six digits that are shown at an instant. @param secret base32, of the session alone */
export function codeAt(secret: string, at: number): string {
  return generateSync({ strategy: 'totp', secret, digits: DIGITS, period: CODE_STEP, epoch: Math.floor(at / 1000) });
}

/** Ms until the digits change. */
export function codeLasts(at: number): number {
  return CODE_STEP * 1000 - (at % (CODE_STEP * 1000));
}

/** Is it the code of now, or of the step before? */
export function isCode(secret: string, code: string, at: number): boolean {
  if (!/^\d{6}$/.test(code)) return false;
  const epoch = Math.floor(at / 1000);
  return verifySync({
    strategy: 'totp',
    secret,
    token: code,
    digits: DIGITS,
    period: CODE_STEP,
    epoch,
    epochTolerance: [CODE_STEP, 0],
  }).valid;
}

/** Whether one may check in at an instant, and as what. */
export type Door = 'early' | 'open' | 'late' | 'over';

/**
 * From ten minutes before the start it is open; so many minutes after it one is late, until the end.
 * @param lateAfter minutes after the start
 */
export function doorAt(
  at: number,
  { starts_at, ends_at }: { starts_at: number; ends_at: number },
  lateAfter: number,
): Door {
  if (at < starts_at - EARLY * MINUTE) return 'early';
  if (at >= ends_at) return 'over';
  return at <= starts_at + lateAfter * MINUTE ? 'open' : 'late';
}

/** The instant from which a session's door is open. */
export function opensAt({ starts_at }: { starts_at: number }): number {
  return starts_at - EARLY * MINUTE;
}

/** A new secret, of one session alone. */
export function newSecret(): string {
  return generateSecret();
}
