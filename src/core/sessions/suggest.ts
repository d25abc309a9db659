/** The mark that somebody's presence in a session suggests. A person confirms it. */
import { MINUTE } from '../time/zone';
import { sayLength, sayTime } from '../time/words';
import type { Presence, SessionTime } from './presence';

/** Where one mark ends and the next begins. A course may have its own. */
export interface Thresholds {
  /** Under this share of the session: absent. */
  absentUnder: number;
  /** From this share on: present, or late. */
  presentFrom: number;
  /** Minutes after the start at which one is still in time. */
  graceMinutes: number;
}

/** Where a course says nothing else. */
export const DEFAULT_THRESHOLDS: Thresholds = { absentUnder: 0.1, presentFrom: 0.75, graceMinutes: 10 };

export interface Suggestion {
  mark: 'present' | 'late' | 'partial' | 'absent';
  /** Why, in words. */
  reason: string;
}

/**
 * Suggests a mark: under a tenth of the session is absent; three quarters of it is present for who came within ten
 * minutes, else late; anything between is partial.
 *
 * @param presence null for somebody of whom there is no row
 * @param zone in which times are said
 */
export function suggestMark(
  presence: Presence | null,
  session: SessionTime,
  zone: string,
  { absentUnder, presentFrom, graceMinutes }: Thresholds = DEFAULT_THRESHOLDS,
): Suggestion {
  if (presence === null) return { mark: 'absent', reason: 'not seen' };
  const { share, firstIn, lastOut, ms } = presence;
  if (firstIn === null || lastOut === null) return { mark: 'absent', reason: 'there outside of the session alone' };
  const isLate = firstIn > session.start + graceMinutes * MINUTE;
  const came = `in at ${sayTime(firstIn, zone)}`;
  const there = `there for ${sayLength(ms)} of ${sayLength(session.end - session.start)}`;
  if (share < absentUnder) return { mark: 'absent', reason: `left after ${sayLength(lastOut - firstIn)}` };
  if (share >= presentFrom) return isLate ? { mark: 'late', reason: came } : { mark: 'present', reason: there };
  const reasons = [
    ...(isLate ? [came] : []),
    ...(lastOut < session.end - graceMinutes * MINUTE ? [`out at ${sayTime(lastOut, zone)}`] : []),
  ];
  return { mark: 'partial', reason: [there, ...reasons].join(', ') };
}
