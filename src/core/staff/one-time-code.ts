/** Codes by time that an app on a telephone shows (RFC 6238), as a second factor, and codes on paper for when it is lost. */
import { generateSecret, generateURI, verifySync } from 'otplib';

/** Seconds for which a code stands; those just before and after are good as well, for a clock that is off. */
const STEP = 30;
const DIGITS = 6;

/** A new secret, in base32: 160 bits. */
export function newOneTimeSecret(): string {
  return generateSecret();
}

/** Is it a secret as this makes them? */
export function isOneTimeSecret(text: string): boolean {
  return /^[A-Z2-7]{32,64}$/.test(text);
}

/** What the app reads from a picture: an otpauth URI. @example oneTimeUri('JBSW…', 'mair@staff.example') */
export function oneTimeUri(secret: string, email: string): string {
  return generateURI({ issuer: 'Lee Shore', label: email, secret, digits: DIGITS, period: STEP });
}

/**
 * The step of time that a code is of; null for one that is wrong, or of a step that was taken already.
 *
 * @param lastStep the last step that was taken: no code is good twice
 */
export function stepOfCode(secret: string, code: string, at: number, lastStep: number): number | null {
  const token = code.replace(/\s/g, '');
  if (!/^\d{6}$/.test(token)) return null;
  const found = verifySync({
    strategy: 'totp',
    secret,
    token,
    digits: DIGITS,
    period: STEP,
    epoch: Math.floor(at / 1000),
    epochTolerance: STEP,
  });
  return found.valid && 'timeStep' in found && found.timeStep > lastStep ? found.timeStep : null;
}

/** Letters of a code on paper: none that is taken for another. */
export const RECOVERY_LETTERS = 'abcdefghjkmnpqrstuvwxyz23456789';

/**
 * A code on paper as it was typed, in one way of writing; null for what is none.
 *
 * @example tidyRecoveryCode(' K7M2X 9qpd4 ') // 'k7m2x-9qpd4'
 */
export function tidyRecoveryCode(typed: string): string | null {
  const letters = typed.toLowerCase().replace(/[\s-]/g, '');
  if (letters.length !== 10 || [...letters].some((letter) => !RECOVERY_LETTERS.includes(letter))) return null;
  return `${letters.slice(0, 5)}-${letters.slice(5)}`;
}
