/** Reach of leavers against people a week: what a place more would bring. */
import { SEED, drawLearners, estimateOf, seeded, shuffled, type Estimate } from './bootstrap';
import { rankBy, type Cohort, type Rule } from './cohort';
import { mean, replay } from './lists';
import { openOutcome, type RankedWeek } from './replay';
import { QUIET, type Step } from './trial';

/** People a week in each course. */
const PEOPLE = [1, 2, 3, 4, 6, 8, 12, 16, 24, 32] as const;
const DRAWS = 100;
const RANDOM_LISTS = 20;

export interface Curve {
  people: number[];
  /** Of each rule, at each number of people. */
  rules: Estimate[][];
  quiet: Estimate[];
  chance: (number | null)[];
}

/** Each cohort's weeks as a rule puts them in order, worked out once. */
function rankedBy(cohorts: readonly Cohort[], rule: Rule): (cohort: Cohort) => readonly RankedWeek[] {
  const ranked = new Map(cohorts.map((cohort) => [cohort, rankBy(cohort.weeks, rule)]));
  return (cohort) => ranked.get(cohort)!;
}

/** Everybody who is there, in an order by chance. */
function byChance(cohorts: readonly Cohort[], random: () => number): (cohort: Cohort) => readonly RankedWeek[] {
  const places = (cohort: Cohort) =>
    cohort.weeks.map(({ day, week, seen }) => ({
      day,
      week,
      ranked: shuffled(
        seen.map(({ place }) => place),
        random,
      ),
    }));
  const ranked = new Map(cohorts.map((cohort) => [cohort, places(cohort)]));
  return (cohort) => ranked.get(cohort)!;
}

/**
 * Reach of rules at growing numbers of people a week in each course, beside quiet for seven days and beside chance. No more
 * people than a course has.
 */
export async function recallCurve(cohorts: readonly Cohort[], rules: readonly Rule[], step: Step): Promise<Curve> {
  const most = Math.max(1, ...cohorts.map(({ learners }) => learners.length));
  const people = PEOPLE.filter((count) => count <= most);
  const learners = cohorts.reduce((sum, cohort) => sum + cohort.learners.length, 0);
  const draws = drawLearners(learners, DRAWS);
  const recallOf = (rank: (cohort: Cohort) => readonly RankedWeek[], count: number) => {
    const result = replay(cohorts, rank, () => count);
    return openOutcome(result.learners, result.listings);
  };
  const line = async (rule: Rule) => {
    const rank = rankedBy(cohorts, rule);
    const reached: Estimate[] = [];
    for (const count of people) {
      await step();
      const recallAtCount = recallOf(rank, count);
      reached.push(
        estimateOf(
          recallAtCount().recall,
          draws.map((counts) => recallAtCount(counts).recall),
        ),
      );
    }
    return reached;
  };
  const lines: Estimate[][] = [];
  for (const rule of rules) lines.push(await line(rule));
  const quiet = await line(QUIET);
  const random = seeded(SEED);
  const orders = Array.from({ length: RANDOM_LISTS }, () => byChance(cohorts, random));
  const chance: (number | null)[] = [];
  for (const count of people) {
    await step();
    chance.push(mean(orders.flatMap((rank) => recallOf(rank, count)().recall ?? [])));
  }
  return { people, rules: lines, quiet, chance };
}
