/** Trials on past courses: a rule replayed on one's own finished courses. */
import { IsOptional, Matches, ValidateBy } from 'class-validator';
import type { Estimate } from '@/core/trial/bootstrap';
import type { Rule } from '@/core/trial/cohort';
import { ENOUGH_LEAVERS, runTrials, type TrialMeasures, type Trial } from '@/core/trial/trial';
import { sayCount } from '@/core/time/words';
import type { Viewer } from '@/data/scope';
import { readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { CoursesInput, inTurns, loadCohorts, oddities, type LoadedCohort } from './cohorts';
import { RULES, checkRules, isRule, openRules, sayRule } from './rules';

const MOST_RULES = 10;
/** Letters of all rules together. */
const LONGEST = 8000;

/** Rules with commas between. */
export const rulesOf = (text: string) => text.split(',').map((one) => one.trim());

export class TrialInput extends CoursesInput {
  @IsOptional()
  @ValidateBy({
    name: 'isRules',
    validator: {
      validate: (text) =>
        typeof text === 'string' &&
        text.length <= LONGEST &&
        rulesOf(text).length <= MOST_RULES &&
        rulesOf(text).every(isRule),
      defaultMessage: () => `is not one of ${RULES}`,
    },
  })
  rule?: string;
  @IsOptional()
  @Matches(/^([1-9]\d{0,2}|1000)$/, { message: 'is not a number from 1 to 1000' })
  people?: string;
}

/** What is said of a trial, and its figures. */
export interface TrialResult {
  courses: string[];
  rule: string;
  /** The rule in words. */
  title: string;
  /** Null for as many a week as quiet for seven days or never lists. */
  people: number | null;
  trial: Trial;
  /** Where there are too few leavers to tell. */
  says: string | null;
  /** What is odd about the courses' past. */
  notes: string[];
}

/**
 * Replays rules on finished courses, at so many people a week in each: the weeks are read once for all of them.
 * @param values `rule` may name several, with commas between
 * @param step called now and then; what it throws ends the trial
 * @throws InvalidInput, NotFound for all but leads
 */
export async function pastTrials(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  step: () => Promise<void> = async () => undefined,
): Promise<TrialResult[]> {
  requireLead(viewer);
  const { course, rule = 'watch', people } = readInput(TrialInput, values);
  const goOn = inTurns(step);
  const names = rulesOf(rule);
  await checkRules(runtime, viewer, names);
  const cohorts = await loadCohorts(runtime, course, goOn);
  const rules = await openRules(runtime, viewer, names, cohorts, goOn);
  return trialsOn(cohorts, rules, { names, people: people ? Number(people) : null }, goOn);
}

/**
 * Replays rules on finished courses that were read.
 * @param titles what each is called; its name in words where that is left out
 */
export async function trialsOn(
  cohorts: readonly LoadedCohort[],
  rules: readonly Rule[],
  {
    names,
    people,
    titles = names.map(sayRule),
  }: { names: readonly string[]; people: number | null; titles?: readonly string[] },
  step: () => Promise<void>,
): Promise<TrialResult[]> {
  const trials = await runTrials(cohorts, rules, people, step);
  return trials.map((trial, index) => ({
    courses: cohorts.map(({ code }) => code),
    rule: names[index],
    title: titles[index],
    people,
    trial,
    says: sayEnough(trial),
    notes: oddities(cohorts),
  }));
}

/** Says plainly where there are too few leavers to tell; null where there are enough. */
function sayEnough({ figures, leavers, learners }: Trial): string | null {
  return figures === null
    ? `${sayCount(leavers, 'leaver')} of ${sayCount(learners, 'learner')}: under ${ENOUGH_LEAVERS} there is too little to tell by.`
    : null;
}

const rounded = (value: number | null) => (value === null ? null : Math.round(1000 * value) / 1000);
const estimate = ({ value, low, high }: Estimate) => ({
  value: rounded(value),
  low: rounded(low),
  high: rounded(high),
});
const figures = ({ recall, precision, lead, perWeek }: TrialMeasures) => ({
  recall: estimate(recall),
  precision: estimate(precision),
  lead_days: estimate(lead),
  per_week: rounded(perWeek),
});

/** A trial as the API and the shell give it: figures with the middle 90 % of what they come to when learners are drawn again. */
export function trialAsJson({ courses, rule, people, trial, says, notes }: TrialResult) {
  const found = trial.figures;
  const none = { recall: null, precision: null, lead_days: null, per_week: null };
  return {
    courses,
    rule,
    people,
    learners: trial.learners,
    leavers: trial.leavers,
    never_came: trial.neverCame,
    says,
    notes,
    ...(found ? figures(found.rule) : none),
    quiet: found ? figures(found.quiet) : none,
    chance: found ? figures(found.chance) : none,
    recall_beside_quiet: found ? estimate(found.ratio) : null,
    auc: trial.auc.map(({ week, rule: own, quiet, leavers }) => ({
      week,
      leavers,
      ...estimate(own),
      quiet: estimate(quiet),
    })),
    missed: trial.missed.length,
    called_for_nothing: trial.forNothing.length,
  };
}

/** The same for a reader of a shell. */
export function trialAsText(result: TrialResult): string {
  const { courses, rule, trial, says, notes } = result;
  const per = ({ value, low, high }: Estimate) =>
    value === null ? '–' : `${Math.round(100 * value)} % (${Math.round(100 * low!)} to ${Math.round(100 * high!)})`;
  const tenth = (days: number) => Math.round(10 * days) / 10;
  const days = ({ value, low, high }: Estimate) =>
    value === null ? '–' : `${tenth(value)} days (${tenth(low!)} to ${tenth(high!)})`;
  const line = (name: string, { recall, precision, lead, perWeek }: TrialMeasures) =>
    `${name}: found in time ${per(recall)}, precision ${per(precision)}, lead ${days(lead)}, ${perWeek?.toFixed(1) ?? '–'} people a week`;
  const head = `${courses.join(', ') || 'no finished course'}: ${sayCount(trial.learners, 'learner')}, ${sayCount(trial.leavers, 'leaver')}, ${trial.neverCame} who never came`;
  if (!trial.figures) return [head, says, ...notes].join('\n');
  const { ratio } = trial.figures;
  return [
    head,
    ...notes,
    line(rule, trial.figures.rule),
    line('quiet 7 or never', trial.figures.quiet),
    line('by chance', trial.figures.chance),
    `found in time beside quiet 7: ${ratio.value?.toFixed(2) ?? '–'} (${ratio.low?.toFixed(2)} to ${ratio.high?.toFixed(2)})`,
    ...trial.auc.map(
      ({ week, rule: own, quiet, leavers }) =>
        `week ${week}: AUC ${own.value?.toFixed(2) ?? '–'}, quiet ${quiet.value?.toFixed(2) ?? '–'}, ${leavers} leaving`,
    ),
  ].join('\n');
}
