/** How long somebody was really there, from the times at which their devices came and went. */

/** From when to when one device was in a session; a null end is one that nobody noted. */
export interface Interval {
  entered: number;
  left: number | null;
}

/** The session's own time. */
export interface SessionTime {
  start: number;
  end: number;
}

/** What one learner's intervals come to. All times are instants, all lengths ms: only a display rounds. */
export interface Presence {
  ms: number;
  /** Of the session's length, 0–1. */
  share: number;
  /** Null for somebody who came and went outside of the session's time. */
  firstIn: number | null;
  lastOut: number | null;
  /** Times that they came again after a gap. */
  reconnects: number;
  longestGapMs: number;
  /** The intervals they were there, in order, with a gap between each and the next. */
  intervals: readonly (readonly [from: number, to: number])[];
  /** Some interval had no end and is taken to the session's. */
  isOpen: boolean;
}

/**
 * Intervals as one time: those that overlap or touch become one, in order, so that two devices at once do not count
 * twice. What lies outside of the session is cut off, and an interval without an end goes on to the session's.
 */
function merge(intervals: readonly Interval[], { start, end }: SessionTime): [from: number, to: number][] {
  const within = intervals
    .map(({ entered, left }): [number, number] => [Math.max(start, entered), Math.min(end, left ?? end)])
    .filter(([from, to]) => to > from)
    .sort((a, b) => a[0] - b[0]);
  const merged: [number, number][] = [];
  for (const [from, to] of within) {
    const last = merged.at(-1);
    if (last && from <= last[1]) last[1] = Math.max(last[1], to);
    else merged.push([from, to]);
  }
  return merged;
}

/**
 * The presence of one learner in a session, of rows that are about them.
 *
 * @example
 * presenceOf([{ entered: 0, left: 40 }, { entered: 50, left: null }], { start: 0, end: 100 })
 * // { ms: 90, share: 0.9, firstIn: 0, lastOut: 100, reconnects: 1, longestGapMs: 10, isOpen: true, … }
 */
export function presenceOf(intervals: readonly Interval[], session: SessionTime): Presence {
  const merged = merge(intervals, session);
  const ms = merged.reduce((sum, [from, to]) => sum + to - from, 0);
  const gaps = merged.slice(1).map(([from], index) => from - merged[index][1]);
  return {
    ms,
    share: ms / (session.end - session.start),
    firstIn: merged.at(0)?.[0] ?? null,
    lastOut: merged.at(-1)?.[1] ?? null,
    reconnects: gaps.length,
    longestGapMs: Math.max(0, ...gaps),
    intervals: merged,
    isOpen: intervals.some(({ entered, left }) => left === null && entered < session.end),
  };
}
