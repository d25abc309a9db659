/** What somebody did beside what their group did, over the last counted days. */
import { quantile } from '../statistics/quantile';
import { countedBack, countedDays, isWithin } from './counted-days';
import type { EvidenceKind } from './evidence';
import { firstDay } from './first-day';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentence';
import type { EnrolmentFacts, Factor } from './types';

/** Events of one's own in so many days, and the group's median. */
interface BesideGroup extends Sentence {
  own: number;
  of: number;
  usual: number;
}

interface Participation {
  name: string;
  title: string;
  notCounted: string;
  evidence: EvidenceKind;
  /** Counted days looked at. */
  stretch: number;
  /** Where the group's median is lower, doing little says nothing. */
  enoughOfGroup: number;
  /** Which events count. */
  counted: (worked: number, talked: number) => number;
  told: (sentence: BesideGroup) => Said;
}

/** Fewer people as long in the course are no group to be held against. */
const ENOUGH_PEOPLE = 5;
/** People whose time in the course differs by so many counted days at most are as long in it. */
const AS_LONG = 2;

/** How long somebody has been in the course, in counted days up to the stretch: beyond it nobody is longer than another. */
function timeInCourse(facts: EnrolmentFacts, stretch: number): number {
  return Math.min(stretch, countedDays(firstDay(facts) - 1, facts.day, facts.skipped));
}

/** Events that count in the last `stretch` counted days up to a day, none from before somebody's time in the course. */
function recentEvents(facts: EnrolmentFacts, { stretch, counted }: Pick<Participation, 'stretch' | 'counted'>): number {
  const { efforts, day, skipped } = facts;
  const from = Math.max(countedBack(day, stretch, skipped), firstDay(facts) - 1);
  let sum = 0;
  for (let i = efforts.length - 1; i >= 0 && efforts[i][0] > from; i -= 1) {
    const [at, worked, talked] = efforts[i];
    if (at <= day && !isWithin(at, skipped)) sum += counted(worked, talked);
  }
  return sum;
}

/** The group's median by time in the course, from 0 to the whole stretch; null where fewer than five are as long in it. */
type Medians = readonly (number | null)[];

/**
 * A factor of doing less than one's group: `ramp(1 − own / group median, 0, 0.8)`, the median being that of people as long in
 * the course, so that whoever came last week is not held against two weeks of others.
 */
export function besideGroup(of: Participation): Factor<Medians> {
  const { name, title, notCounted, evidence, told, stretch, enoughOfGroup } = of;
  return {
    name,
    title,
    notCounted,
    weight: { early: 10, late: 10 },
    needs: ['days'],
    evidence,
    words: { [name]: told },
    ofGroup(members) {
      const byTime: number[][] = Array.from({ length: stretch + 1 }, () => []);
      for (const facts of members) byTime[timeInCourse(facts, stretch)].push(recentEvents(facts, of));
      return byTime.map((_, time) => {
        const asLong = byTime.slice(Math.max(0, time - AS_LONG), time + AS_LONG + 1).flat();
        return asLong.length < ENOUGH_PEOPLE ? null : quantile(asLong, 0.5);
      });
    },
    assess(facts, medians) {
      const median = medians[timeInCourse(facts, stretch)];
      if (median === null || median < enoughOfGroup) return null;
      const theirCount = recentEvents(facts, of);
      return {
        value: ramp(1 - theirCount / median, 0, 0.8),
        says: { name, own: theirCount, of: stretch, usual: Math.round(median) },
      };
    },
  };
}
