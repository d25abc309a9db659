/** A group's readings, day by day. */
import { nextBand, type BandEdges, type PreviousReading } from './bands';
import { mergeRanges, type DayRange } from './counted-days';
import { quantile } from '../statistics/quantile';
import { groupGap, ownGaps } from './expected-gap';
import { DEFAULT_WEIGHTS, type Weights } from './factors';
import { readDrift } from './score';
import { recentEfforts } from './silent';
import type { Band, DayEfforts, Reading } from './types';

/** One enrolment of the group. */
export interface Member {
  enrolmentId: number;
  enrolledDay: number;
  /** First day on which the enrolment is no longer active; null while it is. */
  endedDay: number | null;
  activeDays: readonly number[];
  /** Talking and working events by day, ascending. */
  efforts: DayEfforts;
  /** The last reading stored before the first day asked for. */
  before: PreviousReading | null;
}

export interface CourseDates {
  start: number | null;
  end: number | null;
  breaks: readonly DayRange[];
  feedGaps: readonly DayRange[];
}

export interface StoredReading extends Reading {
  enrolmentId: number;
  day: number;
  band: Band | null;
}

/**
 * Readings of all members for each day from `from` to `to`, each from facts known by then:
 * nothing after a day enters its reading. Members are read on the days they are enrolled.
 */
export function groupReadings(
  members: readonly Member[],
  course: CourseDates,
  from: number,
  to: number,
  edges: BandEdges,
  weights: Weights = DEFAULT_WEIGHTS,
): StoredReading[] {
  const feedGaps = mergeRanges(course.feedGaps);
  const skipped = mergeRanges([...course.breaks, ...course.feedGaps]);
  const previous = new Map(members.map((member) => [member.enrolmentId, member.before]));
  const readings: StoredReading[] = [];
  for (let day = from; day <= to; day += 1) {
    const present = members
      .filter((m) => m.enrolledDay <= day && (m.endedDay === null || m.endedDay > day))
      .map((member) => ({ member, activeDays: upTo(member.activeDays, day) }));
    const group = {
      gap: groupGap(present.map(({ activeDays }) => ownGaps(activeDays, skipped))),
      efforts: quantile(
        present.map(({ member }) => recentEfforts(member.efforts, day, skipped)),
        0.5,
      ),
    };
    for (const { member, activeDays } of present) {
      const reading = readDrift(
        {
          day,
          enrolledDay: member.enrolledDay,
          courseStart: course.start,
          courseEnd: course.end,
          activeDays,
          // Days after this one are passed over where they are counted.
          efforts: member.efforts,
          skipped,
          feedGaps,
        },
        group,
        weights,
      );
      const before = previous.get(member.enrolmentId) ?? null;
      const band = reading.score === null ? null : nextBand(reading.score, before, edges);
      previous.set(member.enrolmentId, { score: reading.score, band });
      readings.push({ ...reading, enrolmentId: member.enrolmentId, day, band });
    }
  }
  return readings;
}

function upTo(days: readonly number[], last: number): readonly number[] {
  if (days.length === 0 || days[days.length - 1] <= last) return days;
  return days.slice(
    0,
    days.findIndex((day) => day > last),
  );
}
