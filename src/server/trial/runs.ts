/** Trials on past courses and fits that are worked on beside everything else: asked for, looked at, cancelled and kept. */
import { DEFAULT_SETTING } from '@/core/drift/setting';
import { FACTORS } from '@/core/drift/model';
import { byDrift, byWatch, type Rule, type Seen } from '@/core/trial/cohort';
import type { TrialKind } from '@/core/trial/run';
import { dayOf } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { finishedCourses } from '@/data/trial/cohorts';
import {
  addTrialRun,
  cancelTrialRun,
  claimTrialRun,
  endTrialRun,
  keepTrialRun,
  openTrialRuns,
} from '@/data/trial/runs';
import { isHeld, isOfThisProcess } from '../owner';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { SYSTEM_VIEWER } from '../system-viewer';
import { inTurns, loadCohorts, type LoadedCohort } from './cohorts';
import { fitAsJson, fitOn, type ProposedWeights } from './fit';
import { keptTrial, type KeptTrial } from './result';
import { checkRules, openRules } from './rules';
import { TrialInput, rulesOf, trialsOn } from './trial';

/** Rules that one trial on a screen holds beside each other, and trials that may wait. */
const MOST_RULES = 4;
const MOST_WAITING = 10;
/** How often it is begun again when the process that was at it has died. */
const MOST_TRIES = 3;
/** How long whoever works on one holds it without a word, and how often at most a word is said, in ms. */
const LEASE = 30_000;
const WORD = 500;

/** What is kept of a fit: the weights, and the trial of them on those they were not fitted to. */
export interface KeptFit {
  fit: ReturnType<typeof fitAsJson>;
  trial: KeptTrial | null;
}

/** Asks for a trial or a fit; gives its id. @throws InvalidInput, NotFound for all but leads */
export async function askForTrial(runtime: Runtime, viewer: Viewer, kind: TrialKind, values: Values): Promise<number> {
  requireLead(viewer);
  const { db, clock, zone } = runtime;
  const asked = readInput(TrialInput, values);
  const names = rulesOf(asked.rule ?? 'watch');
  if (kind === 'trial') {
    if (names.length > MOST_RULES)
      throw new InvalidInput([{ field: 'rule', message: `is more than ${MOST_RULES} rules` }]);
    await checkRules(runtime, viewer, names);
  }
  const finished = await finishedCourses(db, dayOf(clock.now(), zone));
  const unknown = asked.course?.split(',').find((code) => !finished.some((one) => one.code === code.trim()));
  if (unknown !== undefined)
    throw new InvalidInput([{ field: 'course', message: `names ${unknown}, which is no course that has ended` }]);
  if (finished.length === 0)
    throw new InvalidInput([{ field: 'course', message: 'is missing: no course has ended yet' }]);
  return writing(db, async (trx) => {
    if ((await openTrialRuns(trx)).length >= MOST_WAITING)
      throw new InvalidInput([{ field: 'course', message: `has to wait: ${MOST_WAITING} trials are waiting already` }]);
    const at = clock.now();
    const given = Object.fromEntries(Object.entries(asked).filter(([, value]) => value !== undefined));
    await addAudit(trx, {
      at,
      staff_id: viewer.staffId || null,
      what: kind === 'fit' ? 'asked for a fit' : 'asked for a trial on past courses',
      subject: asked.course ?? 'every finished course',
    });
    return addTrialRun(trx, { kind, asked: given, at, staff_id: viewer.staffId || null });
  });
}

/** Cancels a trial that has not ended. @throws NotFound */
export async function cancelTrial({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  requireLead(viewer);
  if (!Number.isInteger(id) || !(await cancelTrialRun(db, id, clock.now())))
    throw new NotFound('No trial that is waiting or under way');
}

/** It was cancelled, or somebody else has taken it over. */
class Ended extends Error {}

/** Works on the oldest that nobody works on. Returns whether there was one. */
export async function workOnTrial(runtime: Runtime, owner: string): Promise<boolean> {
  const { db, clock } = runtime;
  const run = (await openTrialRuns(db)).find((one) => !isHeld(one, clock.real()));
  if (!run) return false;
  // Whoever was at it and has ended with the whole process may have been stopped in good order: that is no try.
  const hasBrokenDown = run.owner !== null && isOfThisProcess(run.owner);
  const tries = run.tries + Number(hasBrokenDown);
  if (!(await claimTrialRun(db, run, { owner, lease_until: clock.real() + LEASE, tries }))) return false;
  const { id, kind, asked } = run;
  let share = 0;
  let said = performance.now();
  const word = async () => {
    if (performance.now() - said < WORD) return;
    said = performance.now();
    const done = Math.min(99, Math.floor(100 * share));
    if (!(await keepTrialRun(db, id, owner, { done, lease_until: clock.real() + LEASE }))) throw new Ended();
  };
  const end = (state: 'done' | 'failed', result: unknown, says: string | null) =>
    endTrialRun(db, id, owner, {
      state,
      ended_at: clock.now(),
      result: result === null ? null : JSON.stringify(result),
      says,
      done: state === 'done' ? 100 : 0,
    });
  try {
    if (tries >= MOST_TRIES) {
      await end('failed', null, `It was begun ${MOST_TRIES} times, and whoever worked on it broke down each time.`);
      return true;
    }
    const step = inTurns(word);
    const at = (next: number) => (share = next);
    const result = await (kind === 'fit' ? runFit(runtime, asked, step, at) : runTrial(runtime, asked, step, at));
    await end('done', result, null);
  } catch (error) {
    if (error instanceof Ended) return true;
    runtime.log.error({ err: error, trial: id }, 'a trial failed');
    const says = error instanceof InvalidInput ? error.message : 'It could not be done. Ask for it again.';
    await end('failed', null, says);
  }
  return true;
}

type Told = (share: number) => void;
/** How much of the whole reading the weeks is, and trying the rules. */
const [READ, TRIED] = [0.6, 0.8];

async function runTrial(
  runtime: Runtime,
  { course, rule = 'watch', people }: Record<string, string>,
  step: () => Promise<void>,
  at: Told,
): Promise<KeptTrial> {
  const names = rulesOf(rule);
  const cohorts = await loadCohorts(runtime, course, step, (share) => at(READ * share));
  const rules = await openRules(runtime, SYSTEM_VIEWER, names, cohorts, step);
  const results = await trialsOn(cohorts, rules, { names, people: people ? Number(people) : null }, step);
  at(TRIED);
  return keptTrial(runtime, cohorts, results, rules, step);
}

/** Drift by weights that were fitted without whoever they are tried on. */
function byLeftOut(
  cohorts: readonly LoadedCohort[],
  { weights, parts }: NonNullable<ProposedWeights['leftOut']>,
): Rule {
  const rules = weights.map((own) =>
    byWatch({
      ...DEFAULT_SETTING,
      weights: Object.fromEntries(FACTORS.map(({ name }, index) => [name, { early: own[index], late: own[index] }])),
    }),
  );
  const scores = new Map<Seen, number | null>();
  let before = 0;
  for (const { learners, weeks } of cohorts) {
    for (const { seen } of weeks) for (const one of seen) scores.set(one, rules[parts[before + one.place]](one));
    before += learners.length;
  }
  return (seen) => scores.get(seen) ?? null;
}

async function runFit(
  runtime: Runtime,
  { course, people }: Record<string, string>,
  step: () => Promise<void>,
  at: Told,
): Promise<KeptFit> {
  const cohorts = await loadCohorts(runtime, course, step, (share) => at(READ * share));
  const found = await fitOn(cohorts, step);
  at(TRIED);
  const fit = fitAsJson(found);
  if (found.leftOut === null) return { fit, trial: null };
  const rules = [byLeftOut(cohorts, found.leftOut), byWatch(DEFAULT_SETTING), byDrift(DEFAULT_SETTING)];
  const titles = ['the Watch, fitted weights', 'the Watch, default weights', 'drift alone, default weights'];
  const asked = { names: titles, titles, people: people ? Number(people) : null };
  const results = await trialsOn(cohorts, rules, asked, step);
  return { fit, trial: await keptTrial(runtime, cohorts, results, rules, step) };
}
