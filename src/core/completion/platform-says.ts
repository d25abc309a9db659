/** What a platform says of somebody in a course: its own word, shown where there is nothing of ours and never mixed with it. */
import { sayDay, sayLength } from '../time/words';
import { MINUTE, dayOf } from '../time/zone';

export interface PlatformSays {
  /** Per cent done; null where it does not say. */
  progress: number | null;
  /** Minutes there; null where it does not say. */
  minutes: number | null;
  /** When it said so, in epoch ms. */
  at: number;
}

/**
 * The same in words, of what there is nothing of ours; null where nothing is left to say.
 *
 * @param ours share of required items done, null where nothing is required, and milliseconds by our own estimate
 * @example sayPlatform({ progress: 45, minutes: 190, at }, { progress: null, ms: 0 }, zone) // "the platform says 45 %, 3 h 10 min (Mon 9 Nov)"
 */
export function sayPlatform(
  says: PlatformSays | null,
  ours: { progress: number | null; ms: number },
  zone: string,
  now?: number,
): string | null {
  if (says === null) return null;
  const parts = [
    says.progress !== null && ours.progress === null ? `${Math.round(says.progress)} %` : null,
    says.minutes !== null && ours.ms === 0 ? sayLength(says.minutes * MINUTE) : null,
  ].filter((part) => part !== null);
  if (parts.length === 0) return null;
  const on = sayDay(dayOf(says.at, zone), now === undefined ? undefined : dayOf(now, zone));
  return `the platform says ${parts.join(', ')} (${on})`;
}
