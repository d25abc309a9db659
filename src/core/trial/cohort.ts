/** A finished cohort, as a trial replays it: each week's end, who was there and what each rule ranks them by. */
import { countedDays, isWithin, mergeRanges, type DayRange } from '../drift/counted-days';
import { absenceFor, type Absence } from '../drift/absence';
import { DEFAULT_MODEL, FACTORS, elapsedShare, weightAt } from '../drift/model';
import { assessAll, openPresence, type CourseDates, type Member } from '../drift/readings';
import { driftFrom, notToRead } from '../drift/score';
import type { DriftSetting } from '../drift/setting';
import type { NoReading } from '../drift/types';
import type { RankedWeek, TrialLearner } from './replay';

/** Days of somebody's silence before the end from which on they had stopped. */
export const STOPPED_BEFORE_END = 28;
/** Days of a week that are a break from which on it is a break week. */
const MOSTLY = 4;

/** A member of a finished course, and how it ended. */
export interface CohortMember extends Member {
  hasWithdrawn: boolean;
  hasCompleted: boolean;
}

/** Somebody at a week's end, as far as a rule can go by. */
export interface Seen {
  /** The place of the learner in the cohort. */
  place: number;
  /** Of each factor, in their order; null where it could not be judged. */
  values: readonly (number | null)[];
  /** Whether each factor could be judged of anybody in their group. */
  byAnybody: readonly boolean[];
  /** The elapsed share of the course. */
  elapsed: number;
  /** Why there is no reading whatever the weights: finished, early, or the feed was blind; null where there may be. */
  without: NoReading | null;
  absence: Absence;
}

/** Where nobody's access is told nobody is away. */
const NOT_ABSENT: Absence = { hasCome: true, days: 0 };

export interface SeenWeek {
  day: number;
  /** The week of the course, from 1. */
  week: number;
  seen: Seen[];
}

/** One finished course, replayed. */
export interface Cohort {
  learners: readonly TrialLearner[];
  weeks: readonly SeenWeek[];
}

/** Week ends of a course, without its break weeks. */
export function weekEnds({ start, end, breaks }: CourseDates): { day: number; week: number }[] {
  if (start === null || end === null) return [];
  const ends: { day: number; week: number }[] = [];
  for (let week = 1; start + 7 * week - 1 <= end; week += 1) {
    const day = start + 7 * week - 1;
    const resting = Array.from({ length: 7 }, (_, i) => day - i).filter((one) => isWithin(one, breaks)).length;
    if (resting < MOSTLY) ends.push({ day, week });
  }
  return ends;
}

/**
 * How it ended for somebody: they left who withdrew, and who stopped four weeks before the end or earlier without completing.
 * Days on which the feed has a gap are no silence.
 */
export function endOf(
  { enrolmentId, days, hasWithdrawn, hasCompleted }: CohortMember,
  { end, feedGaps }: { end: number; feedGaps: readonly DayRange[] },
): TrialLearner {
  const lastDay = days?.activeDays.at(-1) ?? null;
  const hasStopped = lastDay === null || countedDays(lastDay, end, mergeRanges(feedGaps)) >= STOPPED_BEFORE_END;
  return { id: enrolmentId, left: hasWithdrawn || (!hasCompleted && hasStopped), lastDay };
}

/** What was known of a group at each week's end, whatever it is weighed by. */
export function seeGroup(
  members: readonly CohortMember[],
  course: CourseDates,
  placeOf: (enrolmentId: number) => number,
): SeenWeek[] {
  const presentOn = openPresence(members, course);
  return weekEnds(course).map(({ day, week }) => {
    const present = presentOn(day);
    const assessed = assessAll(
      present.map(({ facts }) => facts),
      DEFAULT_MODEL,
    );
    const byAnybody = FACTORS.map((_, factor) => assessed.some((one) => one[factor].assessment !== null));
    const elapsed = elapsedShare(day, course.start, course.end);
    const seen = present.map(({ member, facts }, index) => ({
      place: placeOf(member.enrolmentId),
      values: assessed[index].map(({ assessment }) => assessment?.value ?? null),
      byAnybody,
      elapsed,
      without: notToRead(facts),
      absence: absenceFor(facts) ?? NOT_ABSENT,
    }));
    return { day, week, seen };
  });
}

/** Weeks of several groups of one course, put together. */
export function mergeWeeks(groups: readonly (readonly SeenWeek[])[]): SeenWeek[] {
  const weeks = new Map<number, SeenWeek>();
  for (const { day, week, seen } of groups.flat()) {
    const ofDay = weeks.get(day) ?? { day, week, seen: [] };
    ofDay.seen.push(...seen);
    weeks.set(day, ofDay);
  }
  return [...weeks.values()].sort((a, b) => a.day - b.day);
}

/** More days than anybody is gone: whoever never came goes before everybody who did, and no reading after every drift. */
const NEVER = 10_000;

/** By what a rule puts people in order: higher is more in need; null for whoever it does not list. */
export type Rule = (seen: Seen) => number | null;

/** Drift by the weights of a setting, whoever it is. */
export function byDrift({ weights }: Pick<DriftSetting, 'weights'>): Rule {
  const byFactor = FACTORS.map(({ name }) => weights[name]);
  return ({ values, byAnybody, elapsed, without }) =>
    without === null
      ? driftFrom(
          values,
          byFactor.map((weight) => weightAt(weight, elapsed)),
          byAnybody,
        )
      : null;
}

/**
 * The Watch's *now* by a setting, where away and never started stand on lists of their own: by drift, and after all who have
 * one by the days they have not been there.
 */
export function byWatch(setting: DriftSetting): Rule {
  const drift = byDrift(setting);
  const { away, never } = setting.parts;
  return (seen) => {
    const { absence, without } = seen;
    if (without === 'finished' || absence.days >= (absence.hasCome ? away : never)) return null;
    return drift(seen) ?? absence.days - NEVER;
  };
}

/** Quiet so many days or more, or never there: the longest first. */
export function quietFor(days: number): Rule {
  return ({ absence }) =>
    absence.hasCome && absence.days < days ? null : absence.days + (absence.hasCome ? 0 : NEVER);
}

/** The weeks with a rule's list on each: the one most in need first, as they come where that is the same. */
export function rankBy(weeks: readonly SeenWeek[], rule: Rule): RankedWeek[] {
  return weeks.map(({ day, week, seen }) => ({
    day,
    week,
    ranked: seen
      .flatMap((one) => {
        const value = rule(one);
        return value === null ? [] : [{ place: one.place, value }];
      })
      .sort((a, b) => b.value - a.value || a.place - b.place)
      .map(({ place }) => place),
  }));
}
