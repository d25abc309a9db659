/** Numbers and texts of certificates. */

/** Signs that nobody takes for one another: no I, L, O, U, 0 or 1. */
const SIGNS = '23456789ABCDEFGHJKMNPQRSTVWXYZ';
const LENGTH = 12;

/**
 * A certificate's number from random bytes: twelve of thirty signs, 59 bits, so that nobody comes upon one by trying.
 *
 * @param bytes at least 12; each byte's remainder chooses a sign
 * @example '7KQM-2B9D-XW4H'
 */
export function certificateNumber(bytes: Uint8Array): string {
  const signs = [...bytes.slice(0, LENGTH)].map((byte) => SIGNS[byte % SIGNS.length]).join('');
  return signs.match(/.{4}/g)!.join('-');
}

/** A number as somebody types it, as it is stored; null for what is none. @example readNumber(' 7kqm 2b9d xw4h ') */
export function readNumber(typed: string): string | null {
  const signs = typed.slice(0, 100).toUpperCase().replace(/[\s-]/g, '');
  if (signs.length !== LENGTH || [...signs].some((sign) => !SIGNS.includes(sign))) return null;
  return signs.match(/.{4}/g)!.join('-');
}

/** What a certificate says where its course has no words of its own. */
export const USUAL_TEXT = 'has completed the course {{course}} on {{day}}.';

/** The words of a certificate with its facts. @example fillCertificate('has completed {{course}}.', { course: 'Knots', day: '' }) */
export function fillCertificate(text: string, facts: { course: string; day: string }): string {
  return text.replace(/\{\{\s*(course|day)\s*\}\}/g, (_, name: 'course' | 'day') => facts[name]);
}
