import { NOT_HELD_AGAINST, weeksAhead } from './ahead';
import { countUpTo } from './behind';
import { isWithin } from './counted-days';
import { firstDay } from './first-day';
import { elapsedShare, weightAt, weightOf } from './model';
import type { Assessment, EnrolmentFacts, Factor, Model, NoReading, Reading, Reason } from './types';

/** What each factor has worked out of the group for a day, by the factor's name. */
export type OfGroup = Readonly<Record<string, unknown>>;

/** Under this share of the weight by which anybody of the group could be judged there is no reading. */
const ENOUGH_WEIGHT = 0.4;
/** Days of somebody's time in the course before which there is no reading. */
const FIRST_DAYS = 7;

/** Is everything required done? */
function isFinished({ work: { required, doneDays }, day }: EnrolmentFacts): boolean {
  return required > 0 && countUpTo(doneDays, day) >= required;
}

/** Do all of the last 7 days that are not a break or absence lie in a feed gap? */
function feedIsBlind(facts: EnrolmentFacts): boolean {
  let seen = 0;
  for (let day = facts.day; day > facts.day - 60 && seen < 7; day -= 1) {
    const inGap = isWithin(day, facts.feedGaps);
    if (!inGap && isWithin(day, facts.skipped)) continue;
    if (!inGap) return false;
    seen += 1;
  }
  return seen === 7;
}

/** What the factors say of an enrolment; null where there was nothing to judge by. */
export type Assessed = readonly { factor: Factor; weight: number; assessment: Assessment | null }[];

/** Asks every factor of a model about an enrolment on a day. */
export function assess(facts: EnrolmentFacts, group: OfGroup, model: Model): Assessed {
  const p = elapsedShare(facts.day, facts.courseStart, facts.courseEnd);
  const ahead = weeksAhead(facts);
  return model.factors.map((factor) => {
    const isTold = factor.evidence === null || !facts.untold.has(factor.evidence);
    const assessment = isTold ? factor.assess(facts, group[factor.name]) : null;
    const isHeld = ahead === null || assessment === null || !NOT_HELD_AGAINST.has(factor.name);
    return {
      factor,
      weight: weightAt(weightOf(model, factor), p),
      assessment: isHeld ? assessment : { value: 0, says: { ...assessment.says, ahead: Math.round(10 * ahead) / 10 } },
    };
  });
}

/**
 * The weight of the factors by which anybody of a group could be judged: a course without sessions is not held to have any.
 */
export function judgedByAnybody(all: readonly Assessed[]): number {
  const weights = new Map<string, number>();
  for (const one of all) {
    for (const { factor, weight, assessment } of one) if (assessment !== null) weights.set(factor.name, weight);
  }
  return [...weights.values()].reduce((sum, weight) => sum + weight, 0);
}

/** Why an enrolment is not read on a day, whatever there is to judge by; null where it may be. */
export function notToRead(facts: EnrolmentFacts): NoReading | null {
  if (isFinished(facts)) return 'finished';
  if (facts.toldTo - firstDay(facts) < FIRST_DAYS) return 'early';
  return feedIsBlind(facts) ? 'blind' : null;
}

/** Is there too little to judge by? */
function isLittle(available: number, byAnybody: number): boolean {
  return available === 0 || available < ENOUGH_WEIGHT * byAnybody;
}

/** Shares of 100 that are all whole may add up to a hair more of it. */
const atMost100 = (sum: number) => Math.min(100, sum);

/**
 * Drift by other weights, from what the factors gave: the number that `readDrift` gives by them.
 *
 * @param values of each factor; null where it could not be judged
 * @param weights of each factor on that day
 * @param byAnybody whether each could be judged of anybody in the group
 * @example driftFrom([1, 0.5, null], [30, 10, 20], [true, true, false]) // 87.5
 */
export function driftFrom(
  values: readonly (number | null)[],
  weights: readonly number[],
  byAnybody: readonly boolean[],
): number | null {
  let [available, anybody] = [0, 0];
  for (let factor = 0; factor < weights.length; factor += 1) {
    if (values[factor] !== null) available += weights[factor];
    if (byAnybody[factor]) anybody += weights[factor];
  }
  if (isLittle(available, anybody)) return null;
  let score = 0;
  for (let factor = 0; factor < weights.length; factor += 1) {
    const value = values[factor];
    if (value !== null) score += (100 * weights[factor] * value) / available;
  }
  return atMost100(score);
}

/**
 * Drift of one enrolment: `100 · Σ w f / Σ w` over the factors that are not null, each reason's points being
 * `100 · w f / Σ w`, so that they add up to the score.
 *
 * No reading of whoever has done everything required, in the first 7 days of their time in the course, where the feed was
 * blind for the last 7 counted days, and where the weight of the factors that could be judged is under 40 % of the weight
 * by which anybody could be.
 *
 * @param byAnybody as `judgedByAnybody` gives it
 */
export function readDrift(facts: EnrolmentFacts, assessed: Assessed, byAnybody: number): Reading {
  const judged: { factor: Factor; weight: number; assessment: Assessment }[] = [];
  const [notCounted, untold]: [string[], string[]] = [[], []];
  const stoodOn = facts.toldTo < facts.day ? facts.toldTo : null;
  let available = 0;
  for (const { factor, weight, assessment } of assessed) {
    if (assessment === null) {
      notCounted.push(factor.name);
      if (factor.evidence !== null && facts.untold.has(factor.evidence)) untold.push(factor.name);
    } else {
      available += weight;
      judged.push({ factor, weight, assessment });
    }
  }
  const without = notToRead(facts) ?? (isLittle(available, byAnybody) ? 'little' : null);
  if (without !== null) return { score: null, without, reasons: [], notCounted, untold, stoodOn };
  const reasons: Reason[] = judged.map(({ factor, weight, assessment }) => ({
    factor: factor.name,
    value: assessment.value,
    points: (100 * weight * assessment.value) / available,
    says: assessment.says,
  }));
  const score = atMost100(reasons.reduce((sum, reason) => sum + reason.points, 0));
  reasons.sort((a, b) => b.points - a.points);
  return { score, without, reasons, notCounted, untold, stoodOn };
}

/**
 * Whole points for a screen, which still add up to the rounded score
 * (the largest remainders are rounded up).
 */
export function wholePoints(points: readonly number[]): number[] {
  const total = Math.round(points.reduce((sum, value) => sum + value, 0));
  const whole = points.map(Math.floor);
  const missing = total - whole.reduce((sum, value) => sum + value, 0);
  points
    .map((value, index) => ({ index, rest: value - Math.floor(value) }))
    .sort((a, b) => b.rest - a.rest || a.index - b.index)
    .slice(0, Math.max(0, missing))
    .forEach(({ index }) => (whole[index] += 1));
  return whole;
}
