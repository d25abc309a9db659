/**
 * Bringing what is derived up to date: first the days of learners, in one transaction, then where they stand and their drift, in
 * portions that are stored as they are ready. What is still to come is noted in tables, so a reader can say so, whoever stops can
 * go on, and several threads or processes can be at it: each stores only what is still noted as it was when it was read.
 */
import { setTimeout as pause } from 'node:timers/promises';
import { dayOf } from '@/core/time/zone';
import { withRaw, rawTransaction, type RawConnection } from '@/data/db';
import { closeStage, openStage, stageTouched, storeStage } from '@/data/access/derived';
import { dropReadingsAfter, firstDayToRead, readingRow, storeReadings, type ReadingRow } from '@/data/drift/drift';
import { staleProgressIds, storeProgress } from '@/data/completion/enrolment-progress';
import { runningImports } from '@/data/imports/import-runs';
import { actionToDerive, learnersOfAction, touchForAction } from '@/data/imports/mappings';
import { readNumber, writeNumber } from '@/data/settings';
import {
  FROM_THE_BEGINNING,
  OF_ALL,
  OF_COURSE,
  coursesDueBetween,
  groupWithPast,
  groupsToRead,
  isDayRead,
  noteStale,
  notePastRead,
  noteRead,
  staleGroup,
  type StaleGroup,
} from '@/data/drift/stale';
import { READ_AT_ONCE } from '@/data/view';
import { lookForStops } from '../feed/stopped';
import { isHeld } from '../owner';
import type { Runtime } from '../runtime';
import { READING_AT, READING_DAY, readGroup, workedOut, type Parts } from './portions';
import { isAnythingTouched } from '@/data/access/touched';

/** Learners derived in one step. */
const LEARNERS_A_STEP = 80;
/** Completion derived in one portion. */
const ENROLMENTS_A_PORTION = 200;
/** Readings made in one portion, where a group alone has no more. */
const READINGS_A_PORTION = 2000;
/** How often it is begun anew when the facts change under it, before the rest is left for the next time. */
const ROUNDS = 5;

export interface RecalculateOptions {
  /** False to leave what was touched for a later pass. */
  derive?: boolean;
  /** The import whose end this is: no other may be running. */
  owner?: string;
  /** Called after each step, with how far it is: keeps a lease. What it throws ends the work, and the rest is left. */
  afterStep?: (progress?: DerivingProgress) => Promise<void>;
}

/** How many enrolments' completion and readings are worked out, and of how many. */
export interface DerivingProgress {
  done: number;
  total: number;
}

/** What became of it: something was derived, nothing had to be, or an import is running and will do it. */
export type Recalculated = 'derived' | 'nothing' | 'later';

/**
 * Derives what was touched and reads drift anew where it is stale, for the last days. While an
 * import runs in any process nothing is derived: half of its rows would be judged as all of them.
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

/** Another process has begun an import: the rest is done at its end. */
class ImportBegun extends Error {
  override name = 'ImportBegun';
}

type AfterStep = NonNullable<RecalculateOptions['afterStep']>;
type Write = <T>(work: (raw: RawConnection) => T) => Promise<T>;

async function recalculateOnce(
  runtime: Parts,
  { derive = true, owner, afterStep = async () => undefined }: RecalculateOptions,
): Promise<{ result: Recalculated; isComplete: boolean }> {
  const { db, clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  if (await withRaw(db, (raw) => isImporting(raw, runtime, owner))) return { result: 'later', isComplete: true };
  const write: Write = (work) =>
    rawTransaction(db, (raw) => {
      if (isImporting(raw, runtime, owner)) throw new ImportBegun();
      return work(raw);
    });
  await touchForActions(runtime, afterStep);
  await lookForStops(runtime);
  await noteTime(runtime, today);
  const isNewDay = (await withRaw(db, (raw) => readNumber(raw, READING_DAY))) !== today;
  try {
    let derived = 0;
    if (derive || isNewDay) {
      derived += await deriveDays(runtime, write, afterStep);
      derived += await deriveAllProgress(runtime, write, afterStep);
    }
    const isComplete = await readDrift(runtime, today, write, afterStep);
    // The day is shown when everybody has a reading of it: until then the last one is.
    if (isNewDay && (await withRaw(db, (raw) => isDayRead(raw, today))))
      await write((raw) => writeNumber(raw, READING_DAY, today));
    return { result: derived > 0 ? 'derived' : 'nothing', isComplete };
  } catch (error) {
    if (error instanceof ImportBegun) return { result: 'later', isComplete: true };
    throw error;
  }
}

/** Derives the days of touched learners, and stores all of them at once. Returns how many steps it took. */
async function deriveDays({ db, zone }: Parts, write: Write, afterStep: AfterStep): Promise<number> {
  if ((await withRaw(db, isAnythingTouched)) === false) return 0;
  await withRaw(db, openStage);
  try {
    let steps = 0;
    for (let last: number | null = 0; last !== null; steps += 1) {
      const from: number = last;
      last = await withRaw(db, (raw) => stageTouched(raw, zone, from, LEARNERS_A_STEP));
      await afterStep();
      await pause(1);
    }
    await write((raw) => storeStage(raw, zone));
    return steps;
  } finally {
    await withRaw(db, closeStage);
  }
}

/** Derives stale completion and stores them, a portion at a time. Returns how many there were. */
async function deriveAllProgress(runtime: Parts, write: Write, afterStep: AfterStep): Promise<number> {
  const ids = await withRaw(runtime.db, staleProgressIds);
  const portions: number[][] = [];
  for (let i = 0; i < ids.length; i += ENROLMENTS_A_PORTION) portions.push(ids.slice(i, i + ENROLMENTS_A_PORTION));
  let done = 0;
  for await (const [portion, derived] of workedOut(runtime, 'completion', portions)) {
    await write((raw) => storeProgress(raw, derived));
    done += portion.length;
    // Their drift follows.
    await afterStep({ done, total: ids.length * 2 });
  }
  return ids.length;
}

/** Reads the last days of every group that waits for it. Returns whether all that waited has been read. */
async function readDrift(runtime: Parts, today: number, write: Write, afterStep: AfterStep): Promise<boolean> {
  const { db } = runtime;
  const plan = (await withRaw(db, groupsToRead)).map((group) => ({
    ...group,
    fromDay: Math.min(today, Math.max(group.fromDay, today - READ_AT_ONCE + 1)),
  }));
  const total = plan.reduce((sum, { waiting }) => sum + waiting, 0);
  let [done, left] = [0, 0];
  const portions = readingPortions(plan, today).map((groups) => ({ groups, today }));
  for await (const [{ groups }, readings] of workedOut(runtime, 'readings', portions)) {
    await write((raw) => {
      for (const [i, group] of groups.entries()) if (!storeRecent(raw, group, readings[i])) left += 1;
    });
    done += groups.reduce((sum, { waiting }) => sum + waiting, 0);
    await afterStep({ done: total + done, total: total * 2 });
  }
  return left === 0;
}

/** Groups in portions of some thousand readings. */
function readingPortions(plan: readonly StaleGroup[], today: number): StaleGroup[][] {
  const portions: StaleGroup[][] = [];
  let readings = Infinity;
  for (const group of plan) {
    const groupReadings = group.waiting * (today - group.fromDay + 1);
    if (readings + groupReadings > READINGS_A_PORTION) {
      portions.push([]);
      readings = 0;
    }
    portions.at(-1)!.push(group);
    readings += groupReadings;
  }
  return portions;
}

/**
 * Stores a group's last days, unless somebody else has read them since.
 * @returns whether they are what is known now: else they are read once more
 */
function storeRecent(raw: RawConnection, group: StaleGroup, readings: readonly ReadingRow[]): boolean {
  const now = staleGroup(raw, group);
  if (now === null) return true;
  storeReadings(raw, group, readings, [group.fromDay, Number.MAX_SAFE_INTEGER]);
  if (now.revision !== group.revision) return false;
  noteRead(raw, group, group.fromDay);
  return true;
}

/** Words that mean something else now: whoever has used them is touched. */
async function touchForActions({ db }: Parts, afterStep: () => Promise<void>): Promise<void> {
  for (;;) {
    const action = await withRaw(db, actionToDerive);
    if (!action) return;
    const learners = await withRaw(db, (raw) => learnersOfAction(raw, action.id));
    await rawTransaction(db, (raw) => touchForAction(raw, action, learners));
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
  const [readTo, readAt] = await withRaw(db, (raw) => [readNumber(raw, READING_DAY), readNumber(raw, READING_AT)]);
  if (readTo === today && readAt !== null) {
    const due = await withRaw(db, (raw) => coursesDueBetween(raw, Math.min(readAt, now), Math.max(readAt, now)));
    if (due.length === 0) return;
    await rawTransaction(db, (raw) => {
      for (const courseId of due) noteStale(raw, OF_COURSE, { courseId, fromDay: today });
      writeNumber(raw, READING_AT, now);
    });
    return;
  }
  await rawTransaction(db, (raw) => {
    if (readTo !== null && readTo > today) {
      dropReadingsAfter(raw, today);
      writeNumber(raw, READING_DAY, today);
    }
    noteStale(raw, OF_ALL, { fromDay: readTo === null ? FROM_THE_BEGINNING : Math.min(readTo, today) });
    writeNumber(raw, READING_AT, now);
  });
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
  if (await withRaw(db, (raw) => isImporting(raw, runtime))) return false;
  const planned = await withRaw(db, (raw) =>
    raw.transaction(() => {
      const group = groupWithPast(raw, first);
      if (!group) return null;
      const firstDay = Math.max(group.fromDay, firstDayToRead(raw, group, today - PAST_LIMIT));
      const last = Math.min(firstDay + PAST_STEP - 1, today);
      const readings = readGroup(raw, { ...group, fromDay: firstDay }, last, zone).map(readingRow);
      return { group, firstDay, last, readings };
    })(),
  );
  if (!planned) return false;
  const { group, firstDay, last, readings } = planned;
  const daysAtOnce = Math.max(1, Math.floor((READINGS_AT_ONCE * (last - firstDay + 1)) / Math.max(1, readings.length)));
  for (let day = firstDay; day <= Math.max(last, firstDay); day += daysAtOnce) {
    const end = Math.min(day + daysAtOnce - 1, last);
    const slice = readings.filter(([, on]) => on >= day && on <= end);
    // What stands before the group's first day goes with the first slice.
    const from = day === firstDay ? group.fromDay : day;
    const isSame = await rawTransaction(db, (raw) => storePast(raw, group, slice, { from, first: day, end, today }));
    if (!isSame) return true;
    await pause(1);
  }
  return true;
}

function storePast(
  raw: RawConnection,
  group: StaleGroup,
  slice: readonly ReadingRow[],
  { from, first, end, today }: { from: number; first: number; end: number; today: number },
): boolean {
  if (staleGroup(raw, group)?.revision !== group.revision) return false;
  storeReadings(raw, { ...group, fromDay: first }, slice, [from, end]);
  notePastRead(raw, group, end + 1, today);
  return true;
}

/** Reads all of the past that is stale: for a shell and for tests, which wait for it. */
export async function readAllPast(runtime: Parts): Promise<void> {
  while (await readPast(runtime));
}
