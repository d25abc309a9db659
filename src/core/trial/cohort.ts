/** A finished cohort, as a trial replays it: each week's end, who was there and what each rule ranks them by. */
import { isWithin } from '../drift/counted-days';
import { goneFor, type Gone } from '../drift/gone';
import { DEFAULT_PART_RULES } from '../drift/order';
import { assessAll, openPresence, type CourseDates, type Member } from '../drift/readings';
import { judgedByAnybody, readDrift } from '../drift/score';
import type { Model } from '../drift/types';
import type { RankedWeek, TrialLearner } from './replay';

/** Days of somebody's silence before the end from which on they had stopped. */
const STOPPED_BEFORE_END = 28;
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
  /** By the model's weights; null for no reading. */
  drift: number | null;
  /** Of each factor of the model, in its order; null where it could not be judged. */
  values: readonly (number | null)[];
  gone: Gone;
}

export interface SeenWeek {
  day: number;
  /** The week of the course, from 1. */
  week: number;
  seen: Seen[];
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
 */
export function endOf({ enrolmentId, days, hasWithdrawn, hasCompleted }: CohortMember, end: number): TrialLearner {
  const lastDay = days?.activeDays.at(-1) ?? null;
  const hasStopped = lastDay === null || end - lastDay >= STOPPED_BEFORE_END;
  return { id: enrolmentId, left: hasWithdrawn || (!hasCompleted && hasStopped), lastDay };
}

/** What was known of a group at each week's end, read by a model. */
export function seeGroup(
  members: readonly CohortMember[],
  course: CourseDates,
  model: Model,
  placeOf: (enrolmentId: number) => number,
): SeenWeek[] {
  const presentOn = openPresence(members, course);
  return weekEnds(course).map(({ day, week }) => {
    const present = presentOn(day);
    const assessed = assessAll(
      present.map(({ facts }) => facts),
      model,
    );
    const inForce = judgedByAnybody(assessed);
    const seen = present.map(({ member, facts }, index) => ({
      place: placeOf(member.enrolmentId),
      drift: readDrift(facts, assessed[index], inForce).score,
      values: assessed[index].map(({ assessment }) => assessment?.value ?? null),
      gone: goneFor(facts),
    }));
    return { day, week, seen };
  });
}

/** Weeks of several groups of one course, put together. */
export function mergeWeeks(groups: readonly (readonly SeenWeek[])[]): SeenWeek[] {
  const weeks = new Map<number, SeenWeek>();
  for (const { day, week, seen } of groups.flat()) {
    const own = weeks.get(day) ?? { day, week, seen: [] };
    own.seen.push(...seen);
    weeks.set(day, own);
  }
  return [...weeks.values()].sort((a, b) => a.day - b.day);
}

/** By what a rule puts people in order: higher is more in need; null for whoever it does not list. */
export type Rule = (seen: Seen) => number | null;

/** Drift alone, whoever it is. */
export const byDrift: Rule = ({ drift }) => drift;

/** The Watch's *now*, where away and never started stand on lists of their own. */
export const byWatch: Rule = ({ drift, gone }) => {
  const { away, never } = DEFAULT_PART_RULES;
  return gone.days >= (gone.hasCome ? away : never) ? null : drift;
};

/** Quiet so many days or more, or never there: the longest first. */
export function quietFor(days: number): Rule {
  return ({ gone }) => (gone.hasCome && gone.days < days ? null : gone.days + (gone.hasCome ? 0 : NEVER));
}
/** Whoever never came goes before everybody who did. */
const NEVER = 10_000;

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
