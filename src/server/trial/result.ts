/** What is kept of a trial on past courses or a fit that was run to its end. */
import { settingOn } from '@/core/drift/setting';
import { dayOf } from '@/core/time/zone';
import { chancesOf, type Chance } from '@/core/trial/chance';
import { byDrift, type Cohort, type Rule } from '@/core/trial/cohort';
import { recallCurve, type Curve } from '@/core/trial/curve';
import { recallBySubgroup, type SubgroupMeasures } from '@/core/trial/subgroups';
import { studyTime, visitLength } from '@/core/trial/study-time';
import { withRaw } from '@/data/db';
import { keptSettings } from '@/data/drift/settings';
import { cohortSubgroups } from '@/data/trial/cohorts';
import { sayGroup } from '@/data/courses/segments';
import { workingHours } from '../courses/calendar';
import type { Runtime } from '../runtime';
import type { LoadedCohort } from './cohorts';
import { trialAsJson, type TrialResult } from './trial';

/** Somebody of a cohort, and the days on which the first rule listed them. */
export interface FoundLearner {
  enrolment: number;
  listed: readonly number[];
}

const SUBGROUPS_BY = [
  'kind of course',
  'course',
  'organisation',
  'group',
  'when they studied',
  'how long they stayed',
] as const;
type SubgroupsBy = (typeof SUBGROUPS_BY)[number];

export interface KeptTrial {
  trials: (ReturnType<typeof trialAsJson> & { title: string })[];
  /** Null where there are too few leavers. */
  curve: Curve | null;
  /** Of the first rule. */
  parts: { by: SubgroupsBy; parts: SubgroupMeasures[] }[];
  /** By the weights as they are set. */
  chances: Chance[];
  missed: FoundLearner[];
  forNothing: FoundLearner[];
}

/** People of each sort that are kept. */
const MOST_FOUND = 200;

/** Enrolled so many days after a course's beginning, somebody began when they liked. */
const LATE = 14;
/** From this share of such on, a course is one that is begun at any time. */
const ANY_TIME = 0.25;

function kindOf({ enrolledDays, start }: LoadedCohort, hasSessions: boolean): string {
  const late = enrolledDays.filter((day) => day > start + LATE).length;
  if (late >= ANY_TIME * Math.max(1, enrolledDays.length)) return 'begun at any time';
  return hasSessions ? 'with sessions' : 'without sessions';
}

/** What parts each learner is in, in a row over all cohorts. */
async function partsOf(
  runtime: Runtime,
  cohorts: readonly LoadedCohort[],
  step: () => Promise<void>,
): Promise<Record<SubgroupsBy, (string | null)[]>> {
  const { db, zone } = runtime;
  const hours = await workingHours(runtime);
  const names = Object.fromEntries(SUBGROUPS_BY.map((by) => [by, []])) as unknown as Record<
    SubgroupsBy,
    (string | null)[]
  >;
  for (const cohort of cohorts) {
    const { hasSessions, people } = await withRaw(db, (raw) => cohortSubgroups(raw, cohort.id));
    const kind = kindOf(cohort, hasSessions);
    for (const { id } of cohort.learners) {
      const one = people.get(id);
      names['kind of course'].push(kind);
      names.course.push(`${cohort.title} (${cohort.code})`);
      names.organisation.push(one?.organisation ?? 'on their own');
      names.group.push(one?.group ? `${cohort.code}, ${sayGroup(one.group)}` : null);
      names['when they studied'].push(one ? studyTime(one.visits, hours, zone) : null);
      names['how long they stayed'].push(one ? visitLength(one.visits) : null);
    }
    await step();
  }
  return names;
}

const inRow = (cohorts: readonly Cohort[]) => cohorts.flatMap(({ learners }) => learners);

/** Looks closely at trials that were run: reach against people, parts of the first rule, and whom it missed or called for nothing. */
export async function keptTrial(
  runtime: Runtime,
  cohorts: readonly LoadedCohort[],
  results: readonly TrialResult[],
  rules: readonly Rule[],
  step: () => Promise<void>,
): Promise<KeptTrial> {
  const [{ trial }] = results;
  const learners = inRow(cohorts);
  const isEnough = trial.figures !== null;
  const setting = settingOn(await keptSettings(runtime.db), dayOf(runtime.clock.now(), runtime.zone));
  const names = isEnough ? await partsOf(runtime, cohorts, step) : null;
  const found = (places: readonly number[]) =>
    places
      .slice(0, MOST_FOUND)
      .map((place): FoundLearner => ({ enrolment: learners[place].id, listed: trial.listings[place] }));
  return {
    trials: results.map((result) => ({ ...trialAsJson(result), title: result.title })),
    curve: isEnough ? await recallCurve(cohorts, rules, step) : null,
    parts:
      names === null
        ? []
        : SUBGROUPS_BY.map((by) => ({
            by,
            parts: recallBySubgroup(learners, trial.listings, (place) => names[by][place]),
          })),
    chances: isEnough ? chancesOf(cohorts, byDrift(setting), setting.edges) : [],
    missed: found(trial.missed),
    forNothing: found(trial.forNothing),
  };
}
