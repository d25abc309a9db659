/** Bringing the derived tables and the drift readings up to date, in bounded steps. */
import { setTimeout as pause } from 'node:timers/promises';
import { DEFAULT_EDGES } from '@/core/drift/bands';
import { groupReadings } from '@/core/drift/readings';
import { dayOf } from '@/core/time/zone';
import { writingRaw, type Db, type RawConnection } from '@/data/db';
import { deriveTouched } from '@/data/derived';
import {
  clearStale,
  courseDates,
  groupMembers,
  markAllStale,
  staleGroups,
  storeReadings,
  type ReadingGroup,
} from '@/data/drift';
import { readSetting, writeSetting } from '@/data/settings';
import type { Runtime } from './runtime';

/** Learners derived in one transaction. */
const LEARNERS_A_STEP = 80;
const GROUPS_A_STEP = 2;
/** Readings are made anew for at most this many days back, today included: to a week ago, which is compared with. */
export const READING_WINDOW = 8;

/** Derives what imports touched, then reads drift anew where it is stale. */
export async function recalculate(runtime: Pick<Runtime, 'db' | 'clock' | 'zone'>): Promise<void> {
  const { db, clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  await steps(db, (raw) => deriveTouched(raw, zone, LEARNERS_A_STEP));
  const readTo = Number((await readSetting(db, 'reading_day')) ?? Number.NaN);
  if (Number.isNaN(readTo) || readTo < today)
    await writingRaw(db, (raw) => markAllStale(raw, Number.isNaN(readTo) ? -1 : readTo + 1));
  await steps(db, (raw) => readStale(raw, today, zone));
  if (readTo !== today) await writeSetting(db, 'reading_day', String(today));
}

/** Repeats a step until it has nothing left, letting other work in between. */
async function steps(db: Db, step: (raw: RawConnection) => number): Promise<void> {
  while ((await writingRaw(db, step)) > 0) await pause(1);
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

/** A group's readings from its `fromDay` to today, from what is stored now. */
export function readGroup(raw: RawConnection, group: ReadingGroup, today: number, zone: string) {
  const dates = courseDates(raw, group.courseId, zone);
  return groupReadings(groupMembers(raw, group), dates, group.fromDay, today, DEFAULT_EDGES);
}
