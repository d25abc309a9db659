/** Bringing the derived tables and the drift readings up to date, in bounded steps. */
import { setTimeout as pause } from 'node:timers/promises';
import { DEFAULT_EDGES } from '@/core/drift/bands';
import { groupReadings } from '@/core/drift/readings';
import { dayOf } from '@/core/time/zone';
import { readingRaw, writingRaw, type Db, type RawConnection } from '@/data/db';
import { deriveTouched } from '@/data/derived';
import {
  allGroups,
  clearStale,
  courseDates,
  groupMembers,
  markAllStale,
  missingPast,
  staleGroups,
  storeReadings,
  type ReadingGroup,
} from '@/data/drift';
import { touchForActions } from '@/data/mappings';
import { readSetting, writeSetting } from '@/data/settings';
import type { Runtime } from './runtime';

/** Learners derived in one transaction. */
const LEARNERS_A_STEP = 80;
const GROUPS_A_STEP = 2;
/** Readings are made anew for at most this many days back, today included: to a week ago, which is compared with. */
export const READING_WINDOW = 8;

/**
 * Derives what imports touched, then reads drift anew where it is stale. Returns whether anything
 * had to be derived.
 * @param derive false to leave what was touched for a later pass
 */
export async function recalculate(runtime: Pick<Runtime, 'db' | 'clock' | 'zone'>, derive = true): Promise<boolean> {
  const { db, clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  const touched = (await steps(db, touchForActions)) > 0;
  const derived = derive ? await steps(db, (raw) => deriveTouched(raw, zone, LEARNERS_A_STEP)) : 0;
  const readTo = Number((await readSetting(db, 'reading_day')) ?? Number.NaN);
  if (Number.isNaN(readTo) || readTo < today)
    await writingRaw(db, (raw) => markAllStale(raw, Number.isNaN(readTo) ? -1 : readTo + 1));
  await steps(db, (raw) => readStale(raw, today, zone));
  if (readTo !== today) await writeSetting(db, 'reading_day', String(today));
  return touched || derived > 0;
}

/** Repeats a step until it has nothing left, letting other work in between. Returns how much was done. */
async function steps(db: Db, step: (raw: RawConnection) => number): Promise<number> {
  let all = 0;
  for (;;) {
    const done = await writingRaw(db, step);
    if (done === 0) return all;
    all += done;
    await pause(1);
  }
}

function readStale(raw: RawConnection, today: number, zone: string): number {
  const groups = staleGroups(raw, GROUPS_A_STEP);
  for (const group of groups) {
    const window = { ...group, fromDay: Math.min(today, Math.max(group.fromDay, today - READING_WINDOW + 1)) };
    storeReadings(raw, window, readGroup(raw, window, today, zone));
    clearStale(raw, group);
  }
  return groups.length;
}

/** Days of the past read in one transaction, and how far back at most. */
const PAST_STEP = 28;
const PAST_LIMIT = 26 * 7;

/**
 * Reads the days before the first stored reading, back to each course's start, so that any past
 * day can be looked at. For idle time: an import makes only the days that are compared with.
 */
export async function fillPast({ db, clock, zone }: Pick<Runtime, 'db' | 'clock' | 'zone'>): Promise<void> {
  const today = dayOf(clock.now(), zone);
  for (const group of await readingRaw(db, allGroups)) {
    await steps(db, (raw) => {
      const past = missingPast(raw, group);
      const from = Math.max(past?.from ?? Infinity, today - PAST_LIMIT);
      if (!past || from >= past.first) return 0;
      const window = { ...group, fromDay: Math.max(from, past.first - PAST_STEP) };
      const readings = readGroup(raw, window, past.first - 1, zone);
      storeReadings(raw, window, readings, past.first - 1);
      return readings.length;
    });
  }
}

/** A group's readings from its `fromDay` to a day, from what is stored now. */
export function readGroup(raw: RawConnection, group: ReadingGroup, toDay: number, zone: string) {
  const dates = courseDates(raw, group.courseId, zone);
  return groupReadings(groupMembers(raw, group), dates, group.fromDay, toDay, DEFAULT_EDGES);
}
