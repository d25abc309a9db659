/** What stands out about how far an item has got, in words. */
import { quantile } from '../statistics/quantile';
import { sayDay } from '../time/words';
import { dayOf } from '../time/zone';

export interface ItemUseFacts {
  /** Learners enrolled now. */
  base: number;
  openers: number;
  /** Openers who came back to it on another day. */
  returners: number;
  opens_at: number | null;
  changed_at: number | null;
  opened_since_changed: number | null;
}

/** Of so many openers or more, it can be said that most come back. */
const ENOUGH_OPENERS = 5;
/** Items opened by at least this share, and to which at least that share comes back. */
const REACHES_MANY = 0.5;
const MOST_RETURN = 0.75;
/** … and at least so many times the share that comes back to a usual item of the course. */
const MORE_THAN_USUAL = 1.25;

/** The median share of openers that come back, over the items that enough have opened; 0 for none. */
export function usualReturn(items: readonly Pick<ItemUseFacts, 'openers' | 'returners'>[]): number {
  const shares = items.filter(({ openers }) => openers >= ENOUGH_OPENERS).map((item) => item.returners / item.openers);
  return quantile(shares, 0.5) ?? 0;
}

export type ItemUseNotice = 'nobody' | 'returned' | 'unseen change' | 'not open yet';

/**
 * The one thing to say of an item; null where nothing stands out.
 * @param usual the share that comes back to a usual item of the course
 */
export function itemUseNotice(facts: ItemUseFacts, now: number, usual = 0): ItemUseNotice | null {
  const { base, openers, returners, opens_at, changed_at, opened_since_changed } = facts;
  if (base === 0) return null;
  if (openers === 0) return opens_at !== null && opens_at > now ? 'not open yet' : 'nobody';
  if (changed_at !== null && changed_at <= now && opened_since_changed === 0) return 'unseen change';
  const returning = Math.min(1, Math.max(MOST_RETURN, MORE_THAN_USUAL * usual)) * openers;
  if (openers >= ENOUGH_OPENERS && openers >= REACHES_MANY * base && returners >= returning) {
    return 'returned';
  }
  return null;
}

/** A mark as the screen says it. */
export function sayItemUseNotice(mark: ItemUseNotice, facts: ItemUseFacts, zone: string, now: number): string {
  const day = (at: number) => sayDay(dayOf(at, zone), dayOf(now, zone));
  switch (mark) {
    case 'nobody':
      return 'opened by nobody';
    case 'not open yet':
      return `opens ${day(facts.opens_at!)}`;
    case 'unseen change':
      return `changed ${day(facts.changed_at!)}: nobody has seen that`;
    case 'returned':
      return `${facts.returners} of ${facts.openers} come back to it`;
  }
}
