/** What a device at a session's door is known by: signed, so that nobody makes up devices, or a room where the code was right. */
import { createHmac, timingSafeEqual } from 'node:crypto';

/** A device that the door has seen before. */
export interface Device {
  id: string;
  /** When it was first seen, epoch ms; null for a browser that keeps no cookie and is told by where it comes from. */
  since: number | null;
}

function seal(key: string, text: string): string {
  return createHmac('sha256', key).update(text).digest('base64url').slice(0, 27);
}

function isSealed(key: string, text: string, given: string): boolean {
  const [right, said] = [Buffer.from(seal(key, text)), Buffer.from(given)];
  return right.length === said.length && timingSafeEqual(right, said);
}

/** The text of a device's cookie. */
export function signDevice(key: string, id: string, since: number): string {
  return `${id}.${since}.${seal(key, `device ${id} ${since}`)}`;
}

/** The device of a cookie; null for one that this door did not give. */
export function readDevice(key: string, cookie: string | undefined): Device | null {
  const [id, since, seal_] = (cookie ?? '').split('.');
  if (!seal_ || !/^\d{1,15}$/.test(since) || !isSealed(key, `device ${id} ${since}`, seal_)) return null;
  return { id, since: Number(since) };
}

/** How long somebody may take to choose their name after the right code, in ms. */
const TO_CHOOSE = 2 * 60_000;

/** A word that a device has given the right code just now. @param secret the session's */
export function passOf(secret: string, device: string, at: number): string {
  return `${at}.${seal(secret, `pass ${device} ${at}`)}`;
}

export function isPass(secret: string, device: string, pass: string, now: number): boolean {
  const [at, given = ''] = pass.split('.');
  if (!/^\d{1,15}$/.test(at) || now < Number(at) || now - Number(at) > TO_CHOOSE) return false;
  return isSealed(secret, `pass ${device} ${at}`, given);
}

/** What stands for a learner on the list of names of one session: it tells nothing of their id. */
export function choiceOf(secret: string, learnerId: number): string {
  return seal(secret, `learner ${learnerId}`);
}

/**
 * The network that an address belongs to: of IPv6 the /64 that a household has, of IPv4 the address.
 *
 * @example networkOf('2001:db8:1:2:3::9') // '2001:db8:1:2::/64'
 */
export function networkOf(address: string): string {
  const mapped = /^(?:::ffff:)?(\d+\.\d+\.\d+\.\d+)$/i.exec(address);
  if (mapped) return mapped[1];
  if (!address.includes(':')) return address;
  const [head, tail] = address.toLowerCase().split('%')[0].split('::');
  const [first, last] = [head ? head.split(':') : [], tail ? tail.split(':') : []];
  const groups =
    tail === undefined
      ? first
      : [...first, ...Array<string>(Math.max(0, 8 - first.length - last.length)).fill('0'), ...last];
  return `${groups
    .slice(0, 4)
    .map((group) => group.replace(/^0+(?=.)/, ''))
    .join(':')}::/64`;
}
