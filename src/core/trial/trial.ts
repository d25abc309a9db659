/** A trial on past courses: what a rule would have come to on finished cohorts, beside quiet for seven days and beside chance. */
import { openAuc } from './auc';
import { SEED, drawLearners, estimateOf, seeded, shuffled, type Estimate } from './bootstrap';
import { quietFor, rankBy, type Cohort, type Rule, type Seen } from './cohort';
import { loadOf, mean, replay, type Replayed } from './lists';
import {
  isLeaver,
  leavesAbout,
  openOutcome,
  reachedOn,
  type Listings,
  type Outcome,
  type TrialLearner,
} from './replay';

/** Fewer leavers than these tell nothing: they are counted, and no rate is given. */
export const ENOUGH_LEAVERS = 20;
/** How often learners are drawn again, and how often a random list is made. */
const DRAWS = 200;
const RANDOM_LISTS = 40;

export interface TrialMeasures {
  recall: Estimate;
  precision: Estimate;
  lead: Estimate;
  /** People listed a week, on average. */
  perWeek: number | null;
}

export interface Trial {
  learners: number;
  /** Who left, and of them who never came: they are on a list of their own, and not to be found. */
  leavers: number;
  neverCame: number;
  /** Null under 20 leavers. */
  figures: { rule: TrialMeasures; quiet: TrialMeasures; chance: TrialMeasures; ratio: Estimate } | null;
  auc: { week: number; rule: Estimate; quiet: Estimate; leavers: number }[];
  /** Leavers the rule did not list in time, and who was listed and did not leave, by their places in the cohorts. */
  missed: number[];
  forNothing: number[];
  /** The days on which the rule listed each learner, by their place in the cohorts. */
  listings: Listings;
}

/** The rule that others are held against. */
export const QUIET = quietFor(7);

function figuresOf(own: Outcome, again: readonly Outcome[], perWeek: readonly number[]): TrialMeasures {
  return {
    recall: estimateOf(
      own.recall,
      again.map(({ recall }) => recall),
    ),
    precision: estimateOf(
      own.precision,
      again.map(({ precision }) => precision),
    ),
    lead: estimateOf(
      own.lead,
      again.map(({ lead }) => lead),
    ),
    perWeek: mean(perWeek),
  };
}

/** Random lists as long as the rule's: what reach a list of that size has by chance. */
function byChance(cohorts: readonly Cohort[], { learners, perWeek }: Replayed): TrialMeasures {
  const random = seeded(SEED);
  const lists = Array.from({ length: RANDOM_LISTS }, () => {
    let at = 0;
    const rank = ({ weeks }: Cohort) =>
      weeks.map(({ day, week, seen }) => ({
        day,
        week,
        ranked: shuffled(
          seen.map(({ place }) => place),
          random,
        ),
      }));
    const found = replay(cohorts, rank, () => perWeek[at++]);
    return openOutcome(learners, found.listings)();
  });
  const average = (of: (outcome: Outcome) => number | null) => mean(lists.flatMap((list) => of(list) ?? []));
  return figuresOf(
    {
      recall: average(({ recall }) => recall),
      precision: average(({ precision }) => precision),
      lead: average(({ lead }) => lead),
    },
    lists,
    perWeek,
  );
}

/** Somebody who could still leave at a week's end. */
interface Scored {
  /** Their place among all learners. */
  learner: number;
  seen: Seen;
  leaves: boolean;
}

/** What was known at each week's end of those who could still leave, by the week of the course. */
function scoresByWeek(cohorts: readonly Cohort[]): [week: number, scored: Scored[]][] {
  const byWeek = new Map<number, Scored[]>();
  let before = 0;
  for (const { learners, weeks } of cohorts) {
    for (const { day, week, seen } of weeks) {
      const ofWeek = byWeek.get(week) ?? [];
      for (const one of seen) {
        const leaves = leavesAbout(learners[one.place], day);
        if (leaves !== null) ofWeek.push({ learner: before + one.place, seen: one, leaves });
      }
      byWeek.set(week, ofWeek);
    }
    before += learners.length;
  }
  return [...byWeek].sort(([a], [b]) => a - b);
}

/** How often each of some rows stands in a draw of learners. */
function weightsOf(scored: readonly Scored[], counts: Uint16Array): Uint16Array {
  const weights = new Uint16Array(scored.length);
  for (let row = 0; row < weights.length; row += 1) weights[row] = counts[scored[row].learner];
  return weights;
}

/** Areas by week of several ways to score people. */
async function aucByWeek(
  cohorts: readonly Cohort[],
  scores: readonly ((seen: Seen) => number)[],
  draws: readonly Uint16Array[],
  step: Step,
): Promise<{ week: number; leavers: number; areas: Estimate[] }[]> {
  const found: { week: number; leavers: number; areas: Estimate[] }[] = [];
  for (const [week, scored] of scoresByWeek(cohorts)) {
    const leaves = scored.map((one) => one.leaves);
    const again = draws.map((counts) => weightsOf(scored, counts));
    const areas: Estimate[] = [];
    for (const score of scores) {
      await step();
      const area = openAuc(
        scored.map(({ seen }) => score(seen)),
        leaves,
      );
      areas.push(estimateOf(area(), again.map(area)));
    }
    found.push({ week, leavers: leaves.filter(Boolean).length, areas });
  }
  return found;
}

/** Called now and then in a trial, which takes a while: others may do something meanwhile. What it throws ends it. */
export type Step = () => Promise<void>;

const scoreOf = (rule: Rule) => (seen: Seen) => rule(seen) ?? -1;
const daysQuiet = ({ absence: gone }: Seen) => gone.days;

/**
 * Runs a trial of one rule or several on the same cohorts. Run twice, it says the same.
 *
 * @param cohorts finished courses, each on its own: a place is one in a course
 * @param people at how many a week in each course; null for as many as quiet for seven days or never lists there, evenly over the weeks
 */
export async function runTrials(
  cohorts: readonly Cohort[],
  rules: readonly Rule[],
  people: number | null,
  step: Step = async () => undefined,
): Promise<Trial[]> {
  const quiet = replay(
    cohorts,
    ({ weeks }) => rankBy(weeks, QUIET),
    () => people,
  );
  const { learners } = quiet;
  const load = loadOf(cohorts, quiet.perWeek);
  const leavers = learners.filter(isLeaver).length;
  const neverCame = learners.filter(({ left, lastDay }) => left && lastDay === null).length;
  const isEnough = leavers >= ENOUGH_LEAVERS;
  const draws = isEnough ? drawLearners(learners.length, DRAWS) : [];
  const besideIn = openOutcome(learners, quiet.listings);
  const [beside, againBeside] = [besideIn(), draws.map((counts) => besideIn(counts))];
  const areas = isEnough ? await aucByWeek(cohorts, [daysQuiet, ...rules.map(scoreOf)], draws, step) : [];
  const over = (a: Outcome, b: Outcome) => (a.recall === null || !b.recall ? null : a.recall / b.recall);
  const trials: Trial[] = [];
  for (const [index, rule] of rules.entries()) {
    await step();
    const result = replay(
      cohorts,
      ({ weeks }) => rankBy(weeks, rule),
      (cohort, week) => people ?? load[cohort][week],
    );
    const outcomeIn = openOutcome(learners, result.listings);
    const [outcome, again] = [outcomeIn(), draws.map((counts) => outcomeIn(counts))];
    await step();
    trials.push({
      learners: learners.length,
      leavers,
      neverCame,
      figures: isEnough
        ? {
            rule: figuresOf(outcome, again, result.perWeek),
            quiet: figuresOf(beside, againBeside, quiet.perWeek),
            chance: byChance(cohorts, result),
            ratio: estimateOf(
              over(outcome, beside),
              again.map((one, draw) => over(one, againBeside[draw])),
            ),
          }
        : null,
      auc: areas.map(({ week, leavers: leaving, areas: [besideArea, ...others] }) => ({
        week,
        leavers: leaving,
        rule: others[index],
        quiet: besideArea,
      })),
      missed: placesWhere(
        learners,
        (learner, place) => isLeaver(learner) && reachedOn(learner, result.listings[place]) === null,
      ),
      forNothing: placesWhere(learners, ({ left }, place) => !left && result.listings[place].length > 0),
      listings: result.listings,
    });
  }
  return trials;
}

function placesWhere(
  learners: readonly TrialLearner[],
  is: (learner: TrialLearner, place: number) => boolean,
): number[] {
  return learners.flatMap((learner, place) => (is(learner, place) ? [place] : []));
}
