import type { Band } from './types';

export interface NeedsSomebody {
  band: Band | null;
  score: number | null;
  /** Score seven days ago; null when there was no reading. */
  weekAgo: number | null;
  /** Contact attempts in the last 5 days. */
  recentContacts: number;
}

/** Days for which a contact attempt counts as recent. */
export const RECENT_CONTACT_DAYS = 5;

/** Drift plus half of its rise over 7 days, less 15 for each recent contact attempt. */
export function urgency({ score, weekAgo, recentContacts }: NeedsSomebody): number {
  if (score === null) return -Infinity;
  const rise = weekAgo === null ? 0 : Math.max(0, score - weekAgo);
  return score + rise / 2 - 15 * recentContacts;
}

/** Order on the Watch: worse band first, no reading last, then by urgency. */
export function byNeed(a: NeedsSomebody, b: NeedsSomebody): number {
  const band = (b.band ?? -1) - (a.band ?? -1);
  if (band !== 0) return band;
  const [first, second] = [urgency(a), urgency(b)];
  return first === second ? 0 : second - first;
}
