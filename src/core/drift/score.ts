import { isWithin } from './counted-days';
import { floorOver } from './floors';
import { elapsedShare, weightAt, weightOf } from './model';
import type { Assessment, EnrolmentFacts, Factor, Model, Reading, Reason } from './types';

/** What each factor has worked out of the group for a day, by the factor's name. */
export type OfGroup = Readonly<Record<string, unknown>>;

/** Under this share of the weight by which anybody of the group could be judged there is no reading. */
const ENOUGH_WEIGHT = 0.4;

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
  return model.factors.map((factor) => ({
    factor,
    weight: weightAt(weightOf(model, factor), p),
    assessment: factor.assess(facts, group[factor.name]),
  }));
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

/**
 * Drift of one enrolment: `100 · Σ w f / Σ w` over the factors that are not null,
 * each reason's points being `100 · w f / Σ w`, lifted to the floors.
 *
 * No reading when the weight of the factors that could be judged is under 40 % of the
 * weight by which anybody could be, or the feed was blind for the last 7 counted days.
 *
 * @param byAnybody as `judgedByAnybody` gives it
 */
export function readDrift(facts: EnrolmentFacts, assessed: Assessed, byAnybody: number): Reading {
  const judged: { factor: Factor; weight: number; assessment: Assessment }[] = [];
  const notCounted: Reading['notCounted'] = [];
  let available = 0;
  for (const { factor, weight, assessment } of assessed) {
    if (assessment === null) notCounted.push(factor.name);
    else {
      available += weight;
      judged.push({ factor, weight, assessment });
    }
  }
  if (available === 0 || available < ENOUGH_WEIGHT * byAnybody || feedIsBlind(facts)) {
    return { score: null, reasons: [], notCounted };
  }
  const reasons: Reason[] = judged.map(({ factor, weight, assessment }) => ({
    factor: factor.name,
    value: assessment.value,
    points: (100 * weight * assessment.value) / available,
    says: assessment.says,
  }));
  let score = reasons.reduce((sum, reason) => sum + reason.points, 0);
  const held = floorOver(facts, score);
  if (held) {
    const { name, atLeast } = held.floor;
    reasons.push({ factor: name, value: 1, points: atLeast - score, says: { name, days: held.days, atLeast } });
    score = atLeast;
  }
  reasons.sort((a, b) => b.points - a.points);
  return { score, reasons, notCounted };
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
