import { DAY, dayOf } from '../time/zone';

/** A contact counts as answered by an access within this many days. */
const CAME_BACK_WITHIN = 7;
/** … when it followed a quiet of at least this many days. */
const QUIET_BEFORE = 3;

export interface ContactAndAccess {
  contactAt: number;
  /** Last sign of life (an event, a hand-in, a session attended) at or before the contact; null when there was none. */
  lastBefore: number | null;
  /** First sign of life after the contact; null when there was none. */
  firstAfter: number | null;
}

/**
 * The instant a learner came back after a contact, or null: the first event within
 * 7 days after it, when it followed a quiet of at least 3 days before the contact.
 * Somebody never seen before counts as quiet.
 */
export function cameBack({ contactAt, lastBefore, firstAfter }: ContactAndAccess, zone: string): number | null {
  if (firstAfter === null || firstAfter <= contactAt || firstAfter - contactAt > CAME_BACK_WITHIN * DAY) return null;
  if (lastBefore !== null && dayOf(contactAt, zone) - dayOf(lastBefore, zone) < QUIET_BEFORE) return null;
  return firstAfter;
}
