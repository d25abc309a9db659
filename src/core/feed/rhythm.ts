/**
 * A source's usual rhythm, by the hour of the week, and the hours in which it sent nothing
 * although it usually does.
 */
import { HOUR, offsetAt } from '../time/zone';
import { quantile } from '../statistics/quantile';

/** Events by hour: the number of whole hours since 1970 in UTC. */
export type HourCounts = ReadonlyMap<number, number>;

const WEEK = 168;
/** Weeks before that are looked at, and how many of them there must be. */
const WEEKS_BACK = 6;
const ENOUGH_WEEKS = 2;
/** An hour says something when something came in it in at least this share of the weeks before. */
const USUAL = 0.5;
/** A silence is a gap when it would come about by itself less often than this … */
const CHANCE = 1e-6;
/** … and at least this many events would have come in it. */
const EXPECTED = 20;

/** What is usual in an hour of the week. */
export interface UsualHour {
  /** Events: the median over the weeks before. */
  events: number;
  /** The share of those weeks in which anything came at all. */
  share: number;
  /**
   * How likely nothing comes in it by itself: by the weeks with nothing, of which half a one more is
   * reckoned, since six weeks without a silence are no proof that there is none.
   */
  silence: number;
}

/**
 * What usually comes in an hour, going by the same hour of the week, by the clock of the zone, in
 * the six weeks before. Null where fewer than two weeks are known.
 * @param first the first hour of which anything is known
 */
export function usualAt(counts: HourCounts, hour: number, first: number, zone: string): UsualHour | null {
  const offset = offsetAt(hour * HOUR, zone);
  const seen: number[] = [];
  for (let week = 1; week <= WEEKS_BACK; week += 1) {
    const then = hour - week * WEEK;
    // Where clocks have changed in between, the same hour by the clock is another one.
    const same = then + Math.round((offset - offsetAt(then * HOUR, zone)) / HOUR);
    if (same < first) break;
    seen.push(counts.get(same) ?? 0);
  }
  if (seen.length < ENOUGH_WEEKS) return null;
  const silent = seen.filter((events) => events === 0).length;
  return {
    events: quantile(seen, 0.5)!,
    share: 1 - silent / seen.length,
    silence: (silent + 0.5) / (seen.length + 1),
  };
}

export interface FoundGap {
  /** First hour of the silence, and the first after it. */
  from: number;
  to: number;
  /** Events that would usually have come. */
  expected: number;
}

/**
 * Silences of a source from one hour to another: runs of hours without an event which by
 * themselves would come about less than once in a million, and in which at least 20 events
 * usually come; trimmed to the hours that say something. At night, when now and then somebody is
 * there, a silence is none.
 * @param from first hour looked at; hours before it tell the rhythm
 * @param to the first hour not looked at: the one that is not over
 */
export function findGaps(counts: HourCounts, from: number, to: number, zone: string): FoundGap[] {
  const first = Math.min(...counts.keys());
  const gaps: FoundGap[] = [];
  let open: (FoundGap & { chance: number }) | null = null;
  const close = () => {
    if (open && open.expected >= EXPECTED && open.chance < CHANCE) {
      gaps.push({ from: open.from, to: open.to, expected: open.expected });
    }
    open = null;
  };
  for (let hour = from; hour < to; hour += 1) {
    if ((counts.get(hour) ?? 0) > 0) {
      close();
      continue;
    }
    const usual = usualAt(counts, hour, first, zone);
    if (usual === null || usual.share < USUAL) continue;
    open ??= { from: hour, to: hour, expected: 0, chance: 1 };
    open.to = hour + 1;
    open.expected += usual.events;
    open.chance *= usual.silence;
  }
  close();
  return gaps;
}

/** Events that came in a gap, and those that usually would have. */
export function fillOf(
  counts: HourCounts,
  gap: { from: number; to: number },
  zone: string,
): { came: number; expected: number } {
  const first = Math.min(...counts.keys());
  let [came, expected] = [0, 0];
  for (let hour = gap.from; hour < gap.to; hour += 1) {
    came += counts.get(hour) ?? 0;
    expected += usualAt(counts, hour, first, zone)?.events ?? 0;
  }
  return { came, expected };
}

/** A gap is filled when at least half of what usually comes has come by now; anything, where nothing is known. */
export function isFilled({ came, expected }: { came: number; expected: number }): boolean {
  return came > 0 && came >= expected / 2;
}

/** Events that usually come within a quarter of an hour, below which a silence says nothing. */
const LIVELY = 3;
const QUIET_TOO_LONG = HOUR / 4;

/**
 * Is a source late: silent for a quarter of an hour and for three times its usual pause, at an
 * hour at which it usually sends something?
 * @param usual events that usually come in this hour; null where too little is known
 */
export function isLate(usual: number | null, lastEvent: number, now: number): boolean {
  if (usual === null || usual < LIVELY * 4) return false;
  return now - lastEvent > Math.max(QUIET_TOO_LONG, (3 * HOUR) / usual);
}
