/** How long somebody has not been there, and whether they ever were: what the lists of away and never started go by. */
import { countedDays } from './counted-days';
import { firstDay } from './first-day';
import type { EnrolmentFacts } from './types';

export interface Absence {
  hasCome: boolean;
  /** Counted days since the last access; of whoever never came, since they could have. */
  days: number;
}

/** Counted days without access by the end of a day; null where the course tells nothing of anybody's access. */
export function absenceFor(facts: EnrolmentFacts): Absence | null {
  if (facts.untold.has('opens')) return null;
  const last = facts.activeDays.at(-1);
  return { hasCome: last !== undefined, days: countedDays(last ?? firstDay(facts), facts.day, facts.skipped) };
}
