import { countedDays, isWithin } from './counted-days';
import { DEFAULT_WEIGHTS, FACTORS, elapsedShare, weightAt, type Weights } from './factors';
import { firstDay } from './quiet';
import type { Assessment, EnrolmentFacts, Factor, GroupFacts, Reading, Reason } from './types';

/** Under this share of the weight of all factors in force there is no reading. */
const ENOUGH_WEIGHT = 0.4;

/** Scores that a plain fact holds a learner at, whatever the other factors say. */
interface Floor {
  factor: 'never_accessed' | 'long_quiet';
  atLeast: number;
  days: number;
  applies: (days: number) => boolean;
}

function floorsOf(facts: EnrolmentFacts): Floor[] {
  const last = facts.activeDays.at(-1);
  const days = countedDays(last ?? firstDay(facts), facts.day, facts.skipped);
  return last === undefined
    ? [
        {
          factor: 'never_accessed',
          atLeast: 70,
          days,
          applies: (d) => d >= 10,
        },
      ]
    : [
        {
          factor: 'long_quiet',
          atLeast: 65,
          days,
          applies: (d) => d >= 21,
        },
      ];
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

/**
 * Drift of one enrolment: `100 · Σ w f / Σ w` over the factors that are not null,
 * each reason's points being `100 · w f / Σ w`, lifted to the floors.
 *
 * No reading when the weight of the factors that could be judged is under 40 % of the
 * weight of all factors in force, or the feed was blind for the last 7 counted days.
 */
export function readDrift(
  facts: EnrolmentFacts,
  group: GroupFacts,
  weights: Weights = DEFAULT_WEIGHTS,
  factors: readonly Factor[] = FACTORS,
): Reading {
  const p = elapsedShare(facts.day, facts.courseStart, facts.courseEnd);
  const judged: { factor: Factor; weight: number; assessment: Assessment }[] = [];
  const notCounted: Reading['notCounted'] = [];
  let total = 0;
  let available = 0;
  for (const factor of factors) {
    const weight = weightAt(weights, factor.name, p);
    total += weight;
    const assessment = factor.assess(facts, group);
    if (assessment === null) notCounted.push(factor.name);
    else {
      available += weight;
      judged.push({ factor, weight, assessment });
    }
  }
  if (available === 0 || available < ENOUGH_WEIGHT * total || feedIsBlind(facts)) {
    return { score: null, reasons: [], notCounted };
  }
  const reasons: Reason[] = judged.map(({ factor, weight, assessment }) => ({
    factor: factor.name,
    value: assessment.value,
    points: (100 * weight * assessment.value) / available,
    says: assessment.says,
  }));
  let score = reasons.reduce((sum, reason) => sum + reason.points, 0);
  for (const floor of floorsOf(facts)) {
    if (!floor.applies(floor.days) || score >= floor.atLeast) continue;
    const { factor, days, atLeast } = floor;
    reasons.push({ factor, value: 1, points: atLeast - score, says: { name: factor, days, atLeast } });
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
