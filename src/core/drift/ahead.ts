/** Whoever is ahead: a few quiet days of theirs are no sign of drifting. */
import { weeksBehind } from './behind';
import { firstDay } from './first-day';
import type { EnrolmentFacts } from './types';
import { cameTooLateFor, hasFallenDue, isExcused, isExtended, isHandedIn } from './work';

/** Weeks ahead of plan from which on somebody is. */
const ENOUGH_AHEAD = 0.5;
/** Factors that are not held against them. */
export const NOT_HELD_AGAINST: ReadonlySet<string> = new Set(['quiet', 'no_hand_in', 'working', 'talking']);

/** Is an assignment past its date and not handed in? */
function owesAnything(facts: EnrolmentFacts): boolean {
  const { dueItems, own } = facts.work;
  const first = firstDay(facts);
  return dueItems.some((dueItem, place) => {
    const mine = own[place];
    const isDated = dueItem.dueAt !== null || isExtended(mine, facts.day);
    const dueDay = isExtended(mine, facts.day) ? mine.dueDay : dueItem.dueDay;
    if (dueDay !== null && cameTooLateFor(dueDay, first)) return false;
    return isDated && hasFallenDue(dueItem, mine, facts) && !isHandedIn(mine, facts.day) && !isExcused(mine, facts.day);
  });
}

/** Weeks somebody is ahead of plan, who owes nothing and is half a week ahead or more; null for everybody else. */
export function weeksAhead(facts: EnrolmentFacts): number | null {
  const behind = weeksBehind(facts);
  if (behind === null || behind.weeks > -ENOUGH_AHEAD || owesAnything(facts)) return null;
  return -behind.weeks;
}
