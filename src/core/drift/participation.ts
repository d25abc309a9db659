/** What somebody did beside what their group did, over the last counted days. */
import { quantile } from '../statistics/quantile';
import { countedBack, isWithin, type DayRange } from './counted-days';
import { ramp } from './ramp';
import type { Said, Sentence } from './sentences';
import type { DayEfforts, Factor } from './types';

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
  /** Counted days looked at. */
  stretch: number;
  /** Where the group's median is lower, doing little says nothing. */
  enoughOfGroup: number;
  /** Which events count. */
  counted: (worked: number, talked: number) => number;
  told: (sentence: BesideGroup) => Said;
}

/** Events that count in the last `stretch` counted days up to a day. */
function recentEvents(
  efforts: DayEfforts,
  day: number,
  skipped: readonly DayRange[],
  { stretch, counted }: Pick<Participation, 'stretch' | 'counted'>,
): number {
  const from = countedBack(day, stretch, skipped);
  let sum = 0;
  for (let i = efforts.length - 1; i >= 0 && efforts[i][0] > from; i -= 1) {
    const [at, worked, talked] = efforts[i];
    if (at <= day && !isWithin(at, skipped)) sum += counted(worked, talked);
  }
  return sum;
}

/** A factor of doing less than one's group: `ramp(1 − own / group median, 0, 0.8)`. */
export function besideGroup(of: Participation): Factor<number | null> {
  const { name, title, notCounted, told, stretch, enoughOfGroup } = of;
  return {
    name,
    title,
    notCounted,
    weight: { early: 10, late: 10 },
    needs: ['days'],
    words: { [name]: told },
    /** The median of the members' events over the stretch; null of an empty group. */
    ofGroup: (members) =>
      quantile(
        members.map(({ efforts, day, skipped }) => recentEvents(efforts, day, skipped, of)),
        0.5,
      ),
    assess({ efforts, day, skipped }, median) {
      if (median === null || median < enoughOfGroup) return null;
      const own = recentEvents(efforts, day, skipped, of);
      return {
        value: ramp(1 - own / median, 0, 0.8),
        says: { name, own, of: stretch, usual: Math.round(median) },
      };
    },
  };
}
