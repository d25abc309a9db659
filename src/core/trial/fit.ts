/** Weights fitted to one's own finished cohorts, drawn toward those there are, and checked on what was left out. */
import { groupBy } from '../group-by';
import { elapsedShare } from '../drift/model';
import { openAuc } from './auc';
import { countDraws, seeded } from './bootstrap';
import type { SeenWeek } from './cohort';
import { fitLogistic, type Rows } from './logistic';
import { GIVES_UP, isLeaver, leavesAbout, type TrialLearner } from './replay';

/** Fewer leavers than these, and noise would be taken for a finding. */
export const ENOUGH_TO_FIT = 40;
/** The gain in AUC from which on a fit is proposed. */
const ENOUGH_GAIN = 0.005;
const STRENGTH = 16;
const FOLDS = 5;
/** From so many cohorts on one is left out at a time, else a fifth of the learners. */
const ENOUGH_COHORTS = 3;
const DRAWS = 200;
const SEED = 20_262;
/** A finished course, with when each learner was contacted. */
export interface FitCohort {
  start: number;
  end: number;
  learners: readonly TrialLearner[];
  weeks: readonly SeenWeek[];
  /** The group of each learner, by their place. */
  groups: readonly (number | null)[];
  /** Days on which somebody tried to reach them, by their place. */
  contacts: readonly (readonly number[])[];
}

/** One learner in one week, as it was known then. */
interface Row {
  /** Among all learners of all cohorts. */
  learner: number;
  cohort: number;
  week: number;
  elapsed: number;
  /** Of each factor; what could not be judged has the group's mean of the week. */
  values: readonly number[];
  leaves: boolean;
}

/** Fits a set of weights; its factors are those of the values, in their order. */
export interface FitResult {
  leavers: number;
  /** Fitted on all of it, adding up to 100; null where it is refused. */
  weights: number[] | null;
  /** What the area by week gains on what was left out, on average, and how sure that is; null where it is refused. */
  gain: { value: number; error: number } | null;
  areas: { defaults: number; fitted: number } | null;
  isProposed: boolean;
  /** Each part's weights, fitted without it, and the part of each learner among all; null where it is refused. */
  leftOut: { weights: number[][]; parts: number[] } | null;
  /** Why it is refused, or not proposed. */
  says: string;
}

/** Means of each factor in a group and week; a factor that nobody could be judged by is 0. */
function meansOf(values: readonly (readonly (number | null)[])[], factors: number): number[] {
  return Array.from({ length: factors }, (_, factor) => {
    const known = values.flatMap((own) => own[factor] ?? []);
    return known.length === 0 ? 0 : known.reduce((sum, value) => sum + value, 0) / known.length;
  });
}

/**
 * The rows to fit: whoever never started is left out, whoever has been gone for longer, and the 28 days after a contact, which
 * spoils what would have been.
 */
function rowsOf(cohorts: readonly FitCohort[], factors: number): Row[] {
  const rows: Row[] = [];
  let before = 0;
  cohorts.forEach(({ start, end, learners, weeks, groups, contacts }, cohort) => {
    for (const { day, week, seen } of weeks) {
      const byGroup = groupBy(seen, ({ place }) => groups[place]);
      const means = new Map(
        [...byGroup].map(([group, own]) => [
          group,
          meansOf(
            own.map(({ values }) => values),
            factors,
          ),
        ]),
      );
      for (const { place, values, absence: gone } of seen) {
        const leaves = leavesAbout(learners[place], day);
        if (!gone.hasCome || leaves === null) continue;
        if (contacts[place].some((on) => on <= day && day - on < GIVES_UP)) continue;
        const mean = means.get(groups[place])!;
        rows.push({
          learner: before + place,
          cohort,
          week,
          elapsed: elapsedShare(day, start, end),
          values: values.map((value, factor) => value ?? mean[factor]),
          leaves,
        });
      }
    }
    before += learners.length;
  });
  return rows;
}

const above = (elapsed: number, from: number) => Math.max(0, elapsed - from);

function columnsOf(rows: readonly Row[], held: readonly ((row: Row) => number)[]): Rows {
  const column = (figureOf: (row: Row) => number) => Float64Array.from(rows, figureOf);
  return {
    y: Float64Array.from(rows, ({ leaves }) => Number(leaves)),
    held: held.map(column),
    free: [
      column(({ elapsed }) => elapsed),
      column(({ elapsed }) => above(elapsed, 1 / 3)),
      column(({ elapsed }) => above(elapsed, 2 / 3)),
    ],
  };
}

const shareOf = (weights: readonly number[]) => {
  const total = weights.reduce((sum, weight) => sum + weight, 0);
  return weights.map((weight) => (total === 0 ? 0 : weight / total));
};

const scoreBy = (shares: readonly number[]) => (row: Row) =>
  row.values.reduce((sum, value, factor) => sum + shares[factor] * value, 0);

/** Weights of some rows, drawn toward the defaults as far as those tell there; each as a share of all. */
async function fitShares(
  rows: readonly Row[],
  defaults: readonly number[],
  step: () => Promise<void>,
): Promise<number[]> {
  const shares = shareOf(defaults);
  const plain = await fitLogistic(columnsOf(rows, [scoreBy(shares)]), null, step);
  const at = shares.map((share) => plain.held[0] * share);
  const factors = defaults.map((_, factor) => (row: Row) => row.values[factor]);
  const drawn = await fitLogistic(columnsOf(rows, factors), { at, strength: STRENGTH }, step);
  const fitted = shareOf(drawn.held);
  return fitted.every((share) => share === 0) ? shares : fitted;
}

/** The mean over the weeks of the area under the ROC curve of some scores, as a function of how often each learner counts. */
function areaByWeek(rows: readonly Row[], scores: readonly number[]): (counts?: Uint16Array) => number | null {
  const weeks = groupBy(
    rows.map((_, index) => index),
    (index) => rows[index].week,
  );
  const areas = [...weeks.values()].map((some) => ({
    learners: some.map((index) => rows[index].learner),
    area: openAuc(
      some.map((index) => scores[index]),
      some.map((index) => rows[index].leaves),
    ),
  }));
  return (counts) => {
    const known = areas.flatMap(
      ({ learners, area }) => area(counts && learners.map((learner) => counts[learner])) ?? [],
    );
    return known.length === 0 ? null : known.reduce((sum, value) => sum + value, 0) / known.length;
  };
}

/** With which part each learner is left out: their cohort, or one of five parts of them all. */
function partsOf(cohorts: readonly FitCohort[]): number[] {
  if (cohorts.length >= ENOUGH_COHORTS) return cohorts.flatMap(({ learners }, cohort) => learners.map(() => cohort));
  return cohorts.flatMap(({ learners }) => learners).map((_, learner) => learner % FOLDS);
}

/**
 * Fits weights to finished cohorts. Source: logistic regression with a ridge toward a prior, non-negative, as
 * `fitLogistic`; the gain is of learners who were left out of the fit, its error from drawing learners again.
 *
 * @param defaults the weights there are, in the order of the factors
 * @param step called now and then; what it throws ends it
 */
export async function fitWeights(
  cohorts: readonly FitCohort[],
  defaults: readonly number[],
  step: () => Promise<void> = async () => undefined,
): Promise<FitResult> {
  const leavers = cohorts.flatMap(({ learners }) => learners).filter(isLeaver).length;
  const refused = (says: string): FitResult => ({
    leavers,
    weights: null,
    gain: null,
    areas: null,
    isProposed: false,
    leftOut: null,
    says,
  });
  if (leavers < ENOUGH_TO_FIT)
    return refused(`Refused: ${leavers} leavers, and under ${ENOUGH_TO_FIT} noise would be taken for a finding.`);
  const rows = rowsOf(cohorts, defaults.length);
  if (!rows.some(({ leaves }) => leaves) || rows.every(({ leaves }) => leaves))
    return refused('Refused: everybody who could be judged left, or nobody did.');
  const parts = partsOf(cohorts);
  const scores = new Float64Array(rows.length);
  const without: number[][] = [];
  for (let part = 0; part < (cohorts.length >= ENOUGH_COHORTS ? cohorts.length : FOLDS); part += 1) {
    const shares = await fitShares(
      rows.filter(({ learner }) => parts[learner] !== part),
      defaults,
      step,
    );
    without.push(shares.map((share) => 100 * share));
    const score = scoreBy(shares);
    rows.forEach((row, index) => {
      if (parts[row.learner] === part) scores[index] = score(row);
    });
  }
  await step();
  const plain = areaByWeek(rows, rows.map(scoreBy(shareOf(defaults))));
  const fitted = areaByWeek(rows, [...scores]);
  const gainOf = (counts?: Uint16Array) => (fitted(counts) ?? 0) - (plain(counts) ?? 0);
  const random = seeded(SEED);
  const learners = cohorts.reduce((sum, cohort) => sum + cohort.learners.length, 0);
  const again: number[] = [];
  for (let draw = 0; draw < DRAWS; draw += 1) {
    again.push(gainOf(countDraws(learners, random)));
    await step();
  }
  const mean = again.reduce((sum, value) => sum + value, 0) / again.length;
  const error = Math.sqrt(again.reduce((sum, value) => sum + (value - mean) ** 2, 0) / (again.length - 1));
  const value = gainOf();
  const isProposed = value >= ENOUGH_GAIN && value > error;
  const gain = { value, error };
  return {
    leavers,
    weights: (await fitShares(rows, defaults, step)).map((share) => 100 * share),
    gain,
    areas: { defaults: plain() ?? 0, fitted: fitted() ?? 0 },
    isProposed,
    leftOut: { weights: without, parts },
    says: isProposed
      ? `Proposed: on learners left out of the fit the area by week grows by ${value.toFixed(3)}, give or take ${error.toFixed(3)}.`
      : `Not proposed: on learners left out of the fit the area by week changes by ${value.toFixed(3)}, give or take ${error.toFixed(3)}; it takes ${ENOUGH_GAIN} and more than its error.`,
  };
}
