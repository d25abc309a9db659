/**
 * Whether being in touch works: how many came back after a contact, and how many of those who stood alike and whom nobody
 * contacted. It is a comparison and never an effect: people were not drawn by lot.
 */
import { groupBy } from '../group-by';
import { quantile } from '../statistics/quantile';
import { wilson, type Interval } from '../statistics/wilson';
import { drawLearners, estimateOf, type Estimate } from '../trial/bootstrap';
import { DAY } from '../time/zone';
import { cameBack } from './came-back';

/** An answer counts within so many days; after as many without one or a return, a contact is unanswered. */
export const ANSWER_WITHIN = 5;
/** Who is like somebody: drift within so many points, days quiet within so many days. */
export const LIKE = { drift: 5, quiet: 2 } as const;
/** Nobody contacted them from so many days before to as many after. */
export const LEFT_ALONE = 7;
/** The interval of a difference draws learners again so often. */
const DRAWS = 400;

/** The instants at which somebody was there, as stretches within a day each, in the order of their beginnings. */
export class Signs {
  constructor(
    private readonly starts: readonly number[],
    private readonly ends: readonly number[],
  ) {}

  /** How many stretches begin at or before an instant. */
  private countTo(at: number): number {
    let [low, high] = [0, this.starts.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.starts[middle] <= at) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** The last sign at or before an instant, exact to its day; null where there is none. */
  lastBefore(at: number): number | null {
    const count = this.countTo(at);
    return count === 0 ? null : Math.min(this.ends[count - 1], at);
  }

  /** The first sign after an instant, exact to its day; null where there is none. */
  firstAfter(at: number): number | null {
    const count = this.countTo(at);
    // A stretch that has begun may go on after it: those of the same day alone.
    for (let i = count - 1; i >= 0 && at - this.starts[i] <= DAY; i -= 1) if (this.ends[i] > at) return at + 1;
    return this.starts[count] ?? null;
  }

  /** When they came back after a contact at an instant; null where they did not. */
  cameBack(at: number, zone: string): number | null {
    return cameBack({ contactAt: at, lastBefore: this.lastBefore(at), firstAfter: this.firstAfter(at) }, zone);
  }
}

/** Somebody in a course on a day. */
export interface PersonOnDay {
  /** The learner's number. */
  learner: number;
  drift: number;
  /** Whole days since they were last in the course; null for never. */
  quiet: number | null;
}

/** The standings of a course on a day, to find the like of somebody among: in the order of drift. */
export function openLike(standings: readonly PersonOnDay[]): (one: PersonOnDay) => number[] {
  const ordered = [...standings].sort((a, b) => a.drift - b.drift);
  const firstFrom = (drift: number) => {
    let [low, high] = [0, ordered.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (ordered[middle].drift < drift) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  return (one) => {
    const like: number[] = [];
    // A little more than the edge: two scores that are 5 apart are written as 4.999….
    for (let i = firstFrom(one.drift - LIKE.drift - 1e-9); i < ordered.length; i += 1) {
      const other = ordered[i];
      if (other.drift > one.drift + LIKE.drift + 1e-9) break;
      if (other.learner === one.learner) continue;
      const isAlike =
        one.quiet === null || other.quiet === null
          ? one.quiet === other.quiet
          : Math.abs(one.quiet - other.quiet) <= LIKE.quiet;
      if (isAlike) like.push(other.learner);
    }
    return like;
  };
}

/** A contact with what came of it. */
export interface JudgedContact {
  /** What it is counted under, such as its channel. */
  of: string;
  learner: number;
  answered: boolean;
  returned: boolean;
  /** Old enough to be unanswered, and neither answered nor followed by a return. */
  unanswered: boolean;
  /** The share of its like who returned; null where it has none. */
  likeRate: number | null;
  /** Days since the learner had crossed the first edge, where it was the first contact since; null where it was not. */
  daysSinceCrossing: number | null;
}

/** How contacts of one sort went. */
export interface Worked {
  of: string;
  contacts: number;
  answered: number;
  returned: number;
  unanswered: number;
  /** returned / contacts, with its 95 % interval. */
  rate: number;
  interval: Interval;
  like: { contacts: number; rate: number | null };
  withoutLike: number;
  /** Of the contacts that have like: their rate less that of their like, with the middle 90 % of drawing learners again. */
  difference: Estimate;
  /** The median days from crossing the first edge to the first contact after it; null where none was. */
  daysToContact: number | null;
}

/** How contacts went, by what each is counted under; all of them together under an empty name where `of` is one for all. */
export function howContactsWent(contacts: readonly JudgedContact[]): Worked[] {
  return [...groupBy(contacts, ({ of }) => of)].map(([of, own]) => {
    const count = (is: (one: JudgedContact) => boolean) => own.filter(is).length;
    const returned = count((one) => one.returned);
    const compared = own.filter((one) => one.likeRate !== null);
    const mean = (values: readonly number[]) =>
      values.length === 0 ? null : values.reduce((sum, value) => sum + value, 0) / values.length;
    return {
      of,
      contacts: own.length,
      answered: count((one) => one.answered),
      returned,
      unanswered: count((one) => one.unanswered),
      rate: returned / own.length,
      interval: wilson(returned, own.length),
      like: { contacts: compared.length, rate: mean(compared.map(({ likeRate }) => likeRate!)) },
      withoutLike: own.length - compared.length,
      difference: differenceOf(compared),
      daysToContact: quantile(
        own.flatMap(({ daysSinceCrossing }) => daysSinceCrossing ?? []),
        0.5,
      ),
    };
  });
}

/** The mean difference of contacts to their like; learners, and all of their contacts with them, are drawn again. */
function differenceOf(contacts: readonly JudgedContact[]): Estimate {
  const byLearner = [...groupBy(contacts, ({ learner }) => learner).values()].map((own) => ({
    sum: own.reduce((sum, { returned, likeRate }) => sum + Number(returned) - likeRate!, 0),
    count: own.length,
  }));
  const meanOf = (weights?: Uint16Array) => {
    let [sum, count] = [0, 0];
    byLearner.forEach((one, place) => {
      const weight = weights ? weights[place] : 1;
      sum += weight * one.sum;
      count += weight * one.count;
    });
    return count === 0 ? null : sum / count;
  };
  return estimateOf(meanOf(), drawLearners(byLearner.length, DRAWS).map(meanOf));
}
