/** What the screens of trials show: what can be asked for, what was, and one whole. */
import type { WakeData } from '@/core/access/wake';
import { groupBy } from '@/core/group-by';
import { sayInstant } from '@/core/time/words';
import { dayOf, weekday } from '@/core/time/zone';
import { daysOfLearners } from '@/data/access/visits';
import { settingHistory } from '@/data/drift/settings';
import type { Viewer } from '@/data/scope';
import { finishedCourses } from '@/data/trial/cohorts';
import { foundLearners, type FoundRow } from '@/data/trial/found';
import { findTrialRun, listTrialRuns, type TrialRun } from '@/data/trial/runs';
import { savedViews } from '../people/saved-views';
import { NotFound } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import type { FoundLearner, KeptTrial } from './result';
import { sayRule } from './rules';
import type { KeptFit } from './runs';
import { rulesOf } from './trial';

/** Trials that the list shows. */
const SHOWN = 50;

interface Choice {
  value: string;
  label: string;
}

export interface TrialsPage {
  courses: Choice[];
  rules: Choice[];
  runs: (TrialRun & { what: string })[];
}

/** What was asked for, in words. */
function sayAsked({ kind, asked }: TrialRun): string {
  const rules =
    kind === 'fit'
      ? 'fitted weights'
      : rulesOf(asked.rule ?? 'watch')
          .map(sayRule)
          .join(' · ');
  const people = asked.people ? `${asked.people} a week in each` : 'as many as quiet 7 lists';
  return [rules, asked.course?.split(',').join(', ') ?? 'every finished course', people].join(' — ');
}

/** Finished courses, rules to choose from, and the trials there are. @throws NotFound */
export async function trialsPage(runtime: Runtime, viewer: Viewer): Promise<TrialsPage> {
  requireLead(viewer);
  const { db, clock, zone } = runtime;
  const [courses, history, views, runs] = await Promise.all([
    finishedCourses(db, dayOf(clock.now(), zone)),
    settingHistory(db, viewer, null),
    savedViews(runtime, viewer),
    listTrialRuns(db, viewer, SHOWN),
  ]);
  return {
    courses: courses.map(({ code, title }) => ({ value: code, label: `${title} (${code})` })),
    rules: [
      { value: 'watch', label: 'the Watch, as it is set' },
      { value: 'watch:default', label: 'the Watch, default weights' },
      { value: 'drift', label: 'drift alone, as it is set' },
      { value: 'quiet>=14', label: 'quiet 14 days or more, or never' },
      ...history
        .filter(({ setting }) => setting !== null)
        .slice(1)
        .map(({ id, at }) => ({ value: `watch:${id}`, label: `the Watch, setting of ${sayInstant(at, zone)}` })),
      ...views.map(({ name, query }) => ({
        value: `filter:${new URLSearchParams(query)}`,
        label: `the view “${name}”`,
      })),
    ],
    runs: runs.map((run) => ({ ...run, what: sayAsked(run) })),
  };
}

/** Somebody whom a trial missed or called for nothing, with their wake over the course. */
export interface FoundPerson {
  learnerId: string;
  name: string;
  course: string;
  wake: WakeData;
  listed: readonly number[];
  lastDay: number | null;
}

/** People of each sort that are shown. */
const PEOPLE = 30;

async function foundPeople({ db }: Runtime, viewer: Viewer, found: readonly FoundLearner[]): Promise<FoundPerson[]> {
  const shown = found.slice(0, PEOPLE);
  const rows = await foundLearners(
    db,
    viewer,
    shown.map(({ enrolment }) => enrolment),
  );
  const days = new Map<number, Map<number, { day: number; ms: number }[]>>();
  for (const [courseId, own] of groupBy(rows, ({ course_id }) => course_id)) {
    const ids = own.map(({ learner }) => learner);
    const [{ starts_day, ends_day }] = own;
    const there = await daysOfLearners(db, viewer, { courseId }, ids, starts_day, ends_day);
    days.set(
      courseId,
      groupBy(
        there.filter(({ events }) => events > 0).sort((a, b) => a.day - b.day),
        ({ learner_id }) => learner_id,
      ),
    );
  }
  const byId = new Map(rows.map((row) => [row.enrolment_id, row]));
  return shown.flatMap(({ enrolment, listed }) => {
    const row = byId.get(enrolment);
    if (!row) return [];
    const there = days.get(row.course_id)?.get(row.learner) ?? [];
    return [{ ...personOf(row), wake: wakeOf(row, there), listed, lastDay: there.at(-1)?.day ?? null }];
  });
}

const personOf = ({ learner_id, name, course }: FoundRow) => ({ learnerId: learner_id, name, course });

function wakeOf({ starts_day, ends_day }: FoundRow, there: readonly { day: number; ms: number }[]): WakeData {
  const minutes = Array<number>(ends_day - starts_day + 1).fill(0);
  for (const { day, ms } of there) minutes[day - starts_day] = Math.round(ms / 60_000);
  return {
    firstDay: starts_day,
    firstWeekday: weekday(starts_day),
    minutes,
    active: there.map(({ day }) => day - starts_day),
    due: [],
    gaps: [],
    sessions: [],
  };
}

export interface TrialRunPage {
  run: TrialRun & { what: string };
  fit: KeptFit['fit'] | null;
  trial: KeptTrial | null;
  missed: FoundPerson[];
  forNothing: FoundPerson[];
}

/** One trial or fit with what came of it. @throws NotFound */
export async function trialRunPage(runtime: Runtime, viewer: Viewer, id: number): Promise<TrialRunPage> {
  requireLead(viewer);
  const found = Number.isSafeInteger(id) ? await findTrialRun(runtime.db, viewer, id) : null;
  if (!found) throw new NotFound('No such trial');
  const { result, ...run } = found;
  const kept = result === null ? null : (JSON.parse(result) as KeptTrial | KeptFit);
  const fit = kept !== null && 'fit' in kept ? kept.fit : null;
  const trial = kept !== null && 'fit' in kept ? kept.trial : kept;
  const [missed, forNothing] = await Promise.all([
    foundPeople(runtime, viewer, trial?.missed ?? []),
    foundPeople(runtime, viewer, trial?.forNothing ?? []),
  ]);
  return { run: { ...run, what: sayAsked(run) }, fit, trial, missed, forNothing };
}

/** The weights that a fit proposes, as the form of weights has them. @throws NotFound where it proposes none */
export async function proposedBy(runtime: Runtime, viewer: Viewer, id: number): Promise<Record<string, string>> {
  const { fit } = await trialRunPage(runtime, viewer, id);
  if (!fit?.proposed) throw new NotFound('No fit that proposes weights');
  return Object.fromEntries(
    fit.weights.flatMap(({ factor, fitted }) => [
      [`${factor}_early`, String(fitted)],
      [`${factor}_late`, String(fitted)],
    ]),
  );
}
