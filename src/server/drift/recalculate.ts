/**
 * Bringing the derived tables and the drift readings up to date: derived and read beside what is
 * stored, in bounded steps, and then put in its place in one transaction.
 */
import { setTimeout as pause } from 'node:timers/promises';
import { groupReadings, type UnfinishedDay } from '@/core/drift/readings';
import { dayOf } from '@/core/time/zone';
import { readingRaw, writingRaw, type RawConnection } from '@/data/db';
import {
  DAYS_TO_COME,
  closeStage,
  openStage,
  stageTouched,
  stagedGroups,
  storeStage,
  type DaysOfLearners,
} from '@/data/access/derived';
import {
  closeReadingStage,
  courseDates,
  dropReadingsAfter,
  firstDayToRead,
  groupMembers,
  groupsOfLearners,
  openReadingStage,
  stageReadings,
  storeReadings,
  storeStagedReadings,
  type ReadingGroup,
} from '@/data/drift/drift';
import {
  STANDINGS_TO_COME,
  closeStandingStage,
  openStandingStage,
  stageStandings,
  stagedStandings,
  storeStandings,
  type Standings,
} from '@/data/completion/standing';
import {
  closeEvidenceStage,
  groupsOfEvidence,
  openEvidenceStage,
  stageEvidenceOfDays,
  storeEvidence,
  type EvidenceFrom,
} from '@/data/drift/evidence';
import { courseModels, readSettings } from '@/data/drift/settings';
import { runningImports } from '@/data/imports/import-runs';
import { actionToDerive, learnersOfAction, touchForAction } from '@/data/imports/mappings';
import { readNumber, writeNumber } from '@/data/settings';
import {
  FROM_THE_BEGINNING,
  OF_ALL,
  OF_COURSE,
  coursesDueBetween,
  groupKey,
  groupWithPast,
  groupsToRead,
  markStale,
  notePastRead,
  noteRead,
  staleGroup,
  type Group,
  type StaleGroup,
} from '@/data/drift/stale';
import { READ_AT_ONCE } from '@/data/view';
import { lookForStops } from '../feed/stopped';
import { isHeld } from '../owner';
import type { Runtime } from '../runtime';

type Parts = Pick<Runtime, 'db' | 'clock' | 'zone'>;

/** Learners derived in one step. */
const LEARNERS_A_STEP = 80;
/** Standings derived in one step. */
const STANDINGS_A_STEP = 400;
/** How often it is begun anew when the facts change under it, before the rest is left for the next time. */
const ROUNDS = 5;

export interface RecalculateOptions {
  /** False to leave what was touched for a later pass. */
  derive?: boolean;
  /** The import whose end this is: no other may be running. */
  owner?: string;
  /** Called after each step: keeps a lease. What it throws ends the work, and nothing is stored. */
  afterStep?: () => Promise<void>;
}

/** What became of it: something was derived, nothing had to be, or an import is running and will do it. */
export type Recalculated = 'derived' | 'nothing' | 'later';

/**
 * Derives what was touched and reads drift anew where it is stale, for the last days. While an
 * import runs in any process nothing is derived, so that nobody sees half of it.
 */
export async function recalculate(runtime: Parts, options: RecalculateOptions = {}): Promise<Recalculated> {
  let result: Recalculated = 'nothing';
  for (let round = 0; round < ROUNDS; round += 1) {
    const done = await recalculateOnce(runtime, options);
    if (done.result !== 'nothing') result = done.result;
    if (done.isComplete) break;
  }
  return result;
}

/** Does another than `owner` hold an import? */
function isImporting(raw: RawConnection, { clock }: Pick<Runtime, 'clock'>, owner?: string): boolean {
  return runningImports(raw).some((run) => run.owner !== owner && isHeld(run, clock.real()));
}

async function recalculateOnce(
  runtime: Parts,
  { derive = true, owner, afterStep = async () => undefined }: RecalculateOptions,
): Promise<{ result: Recalculated; isComplete: boolean }> {
  const { db, clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  if (await readingRaw(db, (raw) => isImporting(raw, runtime, owner))) return { result: 'later', isComplete: true };
  await touchForActions(runtime, afterStep);
  await lookForStops(runtime);
  await noteTime(runtime, today);

  const generation = await readingRaw(db, (raw) => readNumber(raw, GENERATION));
  await readingRaw(db, openStage);
  await readingRaw(db, openStandingStage);
  await readingRaw(db, openEvidenceStage);
  await readingRaw(db, openReadingStage);
  try {
    let staged = 0;
    let after: number | null = derive ? 0 : null;
    while (after !== null) {
      const from: number = after;
      after = await readingRaw(db, (raw) => stageTouched(raw, zone, from, LEARNERS_A_STEP));
      if (after !== null) staged += 1;
      await afterStep();
      await pause(1);
    }
    for (let last: number | null = derive ? 0 : null; last !== null;) {
      const from: number = last;
      last = await readingRaw(db, (raw) => stageStandings(raw, { zone, now: clock.now() }, from, STANDINGS_A_STEP));
      await afterStep();
      await pause(1);
    }
    const standings = await readingRaw(db, stagedStandings);
    await readingRaw(db, stageEvidenceOfDays);
    const told = await readingRaw(db, groupsOfEvidence);
    const plan = await readingRaw(db, (raw) => raw.transaction(() => readingPlan(raw, today, told))());
    const from: ReadFrom = {
      days: staged > 0 ? DAYS_TO_COME : 'learner_day',
      standings: STANDINGS_TO_COME,
      evidence: 'staged',
    };
    for (const [number, group] of plan.entries()) {
      await readingRaw(db, (raw) => stageReadings(raw, number, readGroup(raw, group, today, zone, from)));
      await afterStep();
      await pause(1);
    }
    const isNewDay = (await readingRaw(db, (raw) => readNumber(raw, READING_DAY))) !== today;
    if (staged === 0 && standings === 0 && plan.length === 0 && !isNewDay)
      return { result: 'nothing', isComplete: true };
    return await writingRaw(db, (raw) => {
      if (isImporting(raw, runtime, owner)) return { result: 'later', isComplete: true };
      // Somebody else has stored figures since: ours may rest on older ones.
      if (readNumber(raw, GENERATION) !== generation) return { result: 'nothing', isComplete: false };
      writeNumber(raw, GENERATION, (generation ?? 0) + 1);
      const current = plan.map((group) => staleGroup(raw, group)?.mark === group.mark);
      const touchedAgain = staged > 0 ? storeStage(raw, zone) : [];
      if (standings > 0) storeStandings(raw, touchedAgain);
      storeEvidence(raw, told);
      const missed = new Set(groupsOfLearners(raw, touchedAgain).map(groupKey));
      const good = new Map([...plan.entries()].filter(([i, group]) => current[i] && !missed.has(groupKey(group))));
      storeStagedReadings(raw, good);
      for (const group of good.values()) noteRead(raw, group, group.fromDay);
      writeNumber(raw, READING_DAY, today);
      return { result: staged + standings > 0 ? 'derived' : 'nothing', isComplete: good.size === plan.length };
    });
  } finally {
    await readingRaw(db, closeEvidenceStage);
    await readingRaw(db, closeStandingStage);
    await readingRaw(db, closeStage);
    await readingRaw(db, closeReadingStage);
  }
}

/** Where drift is read from: as stored, or as it will be once the stage is stored. */
interface ReadFrom {
  days: DaysOfLearners;
  standings: Standings;
  evidence: EvidenceFrom;
}

const STORED: ReadFrom = { days: 'learner_day', standings: 'standing', evidence: 'stored' };

/** Changes whenever figures are stored, so that nobody stores what rests on older ones. */
const GENERATION = 'derived_generation';
/** The day of the last readings, and the instant up to which that day is read. */
const READING_DAY = 'reading_day';
const READING_AT = 'reading_at';

/** Words that mean something else now: whoever has used them is touched. */
async function touchForActions({ db }: Parts, afterStep: () => Promise<void>): Promise<void> {
  for (;;) {
    const action = await readingRaw(db, actionToDerive);
    if (!action) return;
    const learners = await readingRaw(db, (raw) => learnersOfAction(raw, action.id));
    await writingRaw(db, (raw) => touchForAction(raw, action, learners));
    await afterStep();
  }
}

/**
 * What the time alone makes stale: the days since the last readings, and of the last one itself what fell due after it was
 * read; of today, the courses in which something has fallen due since. Readings of days to come, left by a clock that was
 * ahead, go.
 */
async function noteTime({ db, clock }: Parts, today: number): Promise<void> {
  const now = clock.now();
  const [readTo, readAt] = await readingRaw(db, (raw) => [readNumber(raw, READING_DAY), readNumber(raw, READING_AT)]);
  if (readTo === today && readAt !== null) {
    const due = await readingRaw(db, (raw) => coursesDueBetween(raw, Math.min(readAt, now), Math.max(readAt, now)));
    if (due.length === 0) return;
    await writingRaw(db, (raw) => {
      for (const courseId of due) markStale(raw, OF_COURSE, { courseId, fromDay: today });
      writeNumber(raw, READING_AT, now);
    });
    return;
  }
  await writingRaw(db, (raw) => {
    if (readTo !== null && readTo > today) {
      dropReadingsAfter(raw, today);
      writeNumber(raw, READING_DAY, today);
    }
    markStale(raw, OF_ALL, { fromDay: readTo === null ? FROM_THE_BEGINNING : Math.min(readTo, today) });
    writeNumber(raw, READING_AT, now);
  });
}

/** The day that is not over, as the readings of it are made. */
function unfinishedDay(raw: RawConnection, zone: string): UnfinishedDay | null {
  const at = readNumber(raw, READING_AT);
  return at === null ? null : { day: dayOf(at, zone), at };
}

interface PlannedGroup extends ReadingGroup {
  /** The mark of what waits of it; undefined where only the stage's learners make it stale. */
  mark: number | undefined;
}

/** Groups to be read now, with the first of the last days concerned. */
function readingPlan(
  raw: RawConnection,
  today: number,
  told: readonly (Group & { fromDay: number })[],
): PlannedGroup[] {
  const plan = new Map<string, PlannedGroup>();
  const add = (group: Group & { fromDay: number }, mark: number | undefined) => {
    const key = groupKey(group);
    const fromDay = Math.min(plan.get(key)?.fromDay ?? today, Math.max(group.fromDay, today - READ_AT_ONCE + 1));
    plan.set(key, { courseId: group.courseId, groupId: group.groupId, fromDay, mark: plan.get(key)?.mark ?? mark });
  };
  for (const group of groupsToRead(raw)) add(group, group.mark);
  for (const group of [...stagedGroups(raw), ...told]) add(group, staleGroup(raw, group)?.mark);
  return [...plan.values()];
}

/** Days of the past read in one step, how many readings are stored in one transaction, and how far back at most. */
const PAST_STEP = 28;
const READINGS_AT_ONCE = 2000;
const PAST_LIMIT = 26 * 7;

/**
 * Reads days further back that are stale or were never read, for some of one group: for idle time, since
 * an import makes only the days that are compared with. Returns whether there may be more.
 * @param first courses that somebody waits for
 */
export async function readPast(runtime: Parts, first: readonly number[] = []): Promise<boolean> {
  const { db, clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  if (await readingRaw(db, (raw) => isImporting(raw, runtime))) return false;
  const planned = await readingRaw(db, (raw) =>
    raw.transaction(() => {
      const group = groupWithPast(raw, first);
      if (!group) return null;
      const firstDay = Math.max(group.fromDay, firstDayToRead(raw, group, today - PAST_LIMIT));
      const last = Math.min(firstDay + PAST_STEP - 1, today);
      const readings = readGroup(raw, { ...group, fromDay: firstDay }, last, zone);
      return { group, firstDay, last, readings };
    })(),
  );
  if (!planned) return false;
  const { group, firstDay, last, readings } = planned;
  const daysAtOnce = Math.max(1, Math.floor((READINGS_AT_ONCE * (last - firstDay + 1)) / Math.max(1, readings.length)));
  for (let day = firstDay; day <= Math.max(last, firstDay); day += daysAtOnce) {
    const end = Math.min(day + daysAtOnce - 1, last);
    const slice = readings.filter((one) => one.day >= day && one.day <= end);
    // What stands before the group's first day goes with the first slice.
    const from = day === firstDay ? group.fromDay : day;
    const isSame = await writingRaw(db, (raw) => storePast(raw, group, slice, { from, first: day, end, today }));
    if (!isSame) return true;
    await pause(1);
  }
  return true;
}

function storePast(
  raw: RawConnection,
  group: StaleGroup,
  slice: ReturnType<typeof readGroup>,
  { from, first, end, today }: { from: number; first: number; end: number; today: number },
): boolean {
  if (staleGroup(raw, group)?.mark !== group.mark) return false;
  storeReadings(raw, { ...group, fromDay: first }, slice, [from, end]);
  notePastRead(raw, group, end + 1, today);
  return true;
}

/** Reads all of the past that is stale: for a shell and for tests, which wait for it. */
export async function readAllPast(runtime: Parts): Promise<void> {
  while (await readPast(runtime));
}

/**
 * A group's readings from its `fromDay` to a day, from what is stored now or from what is on the stage.
 * @param modelOn what each day is read by: as it is set, or another for a preview
 */
export function readGroup(
  raw: RawConnection,
  group: ReadingGroup,
  toDay: number,
  zone: string,
  from: ReadFrom = STORED,
  modelOn = courseModels(readSettings(raw), group.courseId),
) {
  const dates = courseDates(raw, group.courseId, zone, from.evidence);
  const members = groupMembers(raw, group, modelOn(toDay), from, zone);
  return groupReadings(members, dates, group.fromDay, toDay, modelOn, unfinishedDay(raw, zone));
}
