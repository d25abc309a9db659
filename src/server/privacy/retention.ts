/** How long what is kept of people is kept: set by a lead, shown before it holds, a day to take it back, then done in small pieces. */
import { setTimeout as pause } from 'node:timers/promises';
import { IsOptional, ValidateBy } from 'class-validator';
import {
  DEFAULT_KEPT,
  KEPT_KINDS,
  KINDS_BY_COURSE,
  MOST_KEPT,
  TAKE_BACK,
  dateOrNull,
  endedBy,
  goesOnDay,
  sayKeptChanges,
  type KeptDays,
  type KeptKind,
} from '@/core/privacy/retention';
import { isLead } from '@/core/staff/rights';
import { without } from '@/core/without';
import { dayOf, startOfDay } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import { rawTransaction, writing, type Db } from '@/data/db';
import { isImporting } from '@/data/privacy/erasures';
import {
  beginGone,
  countLooks,
  coursesWithEnd,
  dropLooks,
  dropOfEnrolments,
  dueOfCourses,
  emptyTexts,
  endGone,
  endsOfLearners,
  learnersEnded,
  rowsKept,
  textsKept,
} from '@/data/privacy/retention';
import type { Viewer } from '@/data/scope';
import { readSetting, writeSetting } from '@/data/settings';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { dropEventsOf } from '../archive/drop-events';
import { dropArchive } from '../archive/files';

const SETTING = 'retention';

/** What is set: the days that hold, null before anything was, and those that will. */
interface Retention {
  days: KeptDays | null;
  next: { days: KeptDays; from: number } | null;
}

async function readRetention(db: Db, now: number): Promise<Retention> {
  const kept = await readSetting(db, SETTING);
  const { days, next }: Retention = kept === null ? { days: null, next: null } : JSON.parse(kept);
  return next !== null && next.from <= now ? { days: next.days, next: null } : { days, next };
}

/** A number of days as a program or a form gives it; null or `for ever` for no end. */
const IsKept = () =>
  ValidateBy({
    name: 'isKept',
    validator: {
      validate: (value) => readKept(value) !== undefined,
      defaultMessage: () => `is neither a whole number from 1 to ${MOST_KEPT} nor "for ever"`,
    },
  });

function readKept(value: unknown): number | null | undefined {
  if (value === null || value === 'for ever') return null;
  const days = typeof value === 'string' && /^\d{1,6}$/.test(value) ? Number(value) : value;
  return Number.isInteger(days) && (days as number) >= 1 && (days as number) <= MOST_KEPT
    ? (days as number)
    : undefined;
}

const fault = (field: string, message: string) => new InvalidInput([{ field, message }]);

/** Days by kind; what is left out stays as it is. */
class KeptInput {
  @IsOptional() @IsKept() events?: unknown;
  @IsOptional() @IsKept() visits?: unknown;
  @IsOptional() @IsKept() messages?: unknown;
  @IsOptional() @IsKept() notes?: unknown;
  @IsOptional() @IsKept() readings?: unknown;
  @IsOptional() @IsKept() looks?: unknown;
}

function daysFrom(values: Values, before: KeptDays): KeptDays {
  const input = readInput(KeptInput, values);
  const of = (kind: KeptKind) => {
    // What a program leaves out stays; nothing at all is for ever.
    if (values[kind] === null) return null;
    return input[kind] === undefined ? before[kind] : readKept(input[kind]);
  };
  return Object.fromEntries(KEPT_KINDS.map((kind) => [kind, of(kind)])) as KeptDays;
}

/** What goes, of which course or of how many learners, and on which day. */
export interface Going {
  kind: KeptKind;
  course: string | null;
  title: string | null;
  learners: number | null;
  /** Null for looks, which go day by day. */
  on: string | null;
  /** Is it on or before today? */
  isDue: boolean;
  rows: number;
}

/** What would go by these days: of each course with an end, and of learners by the last of their courses. */
async function goingBy({ db, clock, zone }: Runtime, days: KeptDays): Promise<Going[]> {
  const today = dayOf(clock.now(), zone);
  const courses = await coursesWithEnd(db);
  const kept = await rowsKept(
    db,
    courses.map(({ id }) => id),
  );
  const going: (Going & { day: number })[] = [];
  for (const { id, code, title, ends_day, gone } of courses)
    for (const kind of KINDS_BY_COURSE) {
      const day = goesOnDay(ends_day, days[kind]);
      const rows = kept.get(id)![kind];
      if (day === null || rows === 0 || gone.includes(kind)) continue;
      going.push({ kind, course: code, title, learners: null, on: dateOrNull(day), isDue: day <= today, rows, day });
    }
  for (const { day: ended, learners } of await endsOfLearners(db))
    for (const kind of ['messages', 'notes'] as const) {
      const day = goesOnDay(ended, days[kind]);
      const rows = day === null ? 0 : await textsKept(db, kind, learners);
      if (day === null || rows === 0) continue;
      const of = { course: null, title: null, learners: (JSON.parse(learners) as number[]).length };
      going.push({ kind, ...of, on: dateOrNull(day), isDue: day <= today, rows, day });
    }
  const looks = await oldLooks(db, days, today, zone);
  const rows = looks === null ? 0 : await countLooks(db, looks);
  if (rows > 0)
    going.push({ kind: 'looks', course: null, title: null, learners: null, on: null, isDue: true, rows, day: 0 });
  going.sort((a, b) => a.day - b.day);
  return going.map((one) => without(one, 'day'));
}

async function oldLooks(db: Db, days: KeptDays, today: number, zone: string) {
  const day = endedBy(today, days.looks);
  if (day === null) return null;
  return { before: startOfDay(day + 1, zone), ended: await learnersEnded(db, day) };
}

function requireLead(viewer: Viewer): void {
  if (!isLead(viewer)) throw new NotFound();
}

/**
 * The days that hold, those that will, and what goes by them; or by others that are tried.
 *
 * @param tried days by kind, as in `setRetention`; none for those that hold
 * @throws InvalidInput, NotFound for others than leads
 */
export async function retention(runtime: Runtime, viewer: Viewer, tried: Values = {}) {
  requireLead(viewer);
  const now = runtime.clock.now();
  const { days, next } = await readRetention(runtime.db, now);
  const shown = daysFrom(tried, next?.days ?? days ?? DEFAULT_KEPT);
  return { days: days ?? DEFAULT_KEPT, isSet: days !== null, next, shown, going: await goingBy(runtime, shown) };
}

/** The same as a program gets it. */
export async function retentionAnswer(runtime: Runtime, viewer: Viewer, tried: Values = {}) {
  const { days, isSet, next, shown, going } = await retention(runtime, viewer, tried);
  return {
    days,
    in_force: isSet,
    next: next && { days: next.days, from: new Date(next.from).toISOString() },
    shown,
    data: going.map(({ isDue, ...one }) => ({ ...one, due: isDue })),
  };
}

/**
 * Sets days by kind: they hold in a day, and can be taken back until then. The days that hold already take back what waits.
 *
 * @throws InvalidInput, NotFound for others than leads
 */
export async function setRetention(runtime: Runtime, viewer: Viewer, values: Values): Promise<void> {
  requireLead(viewer);
  const { db, clock } = runtime;
  const now = clock.now();
  const strange = Object.keys(values).find((name) => !(KEPT_KINDS as readonly string[]).includes(name));
  if (strange !== undefined) throw fault(strange.slice(0, 60), `is not one of ${KEPT_KINDS.join(', ')}`);
  // Whoever names nothing has decided nothing.
  if (Object.keys(values).length === 0) throw fault('events', 'is missing, and so is every other kind');
  await writing(db, async (trx) => {
    const { days, next } = await readRetention(trx, now);
    const wanted = daysFrom(values, next?.days ?? days ?? DEFAULT_KEPT);
    const isSame = (other: KeptDays | null) =>
      other !== null && KEPT_KINDS.every((kind) => other[kind] === wanted[kind]);
    // Asked for twice, the first holds.
    if (isSame(next?.days ?? null)) return;
    const state: Retention = { days, next: isSame(days) ? null : { days: wanted, from: now + TAKE_BACK } };
    await writeSetting(trx, SETTING, JSON.stringify(state));
    await addAudit(trx, {
      at: now,
      staff_id: viewer.staffId,
      what: isSame(days) ? 'took back how long is kept' : 'set how long is kept',
      subject: '',
      changes: sayKeptChanges(next?.days ?? days ?? DEFAULT_KEPT, wanted),
    });
  });
}

/** Takes back what was set and does not hold yet. @throws NotFound where nothing waits, and for others than leads */
export async function takeBackRetention(runtime: Runtime, viewer: Viewer): Promise<void> {
  requireLead(viewer);
  const { db, clock } = runtime;
  const now = clock.now();
  await writing(db, async (trx) => {
    const { days, next } = await readRetention(trx, now);
    if (next === null) throw new NotFound('Nothing that can be taken back');
    await writeSetting(trx, SETTING, JSON.stringify({ days, next: null } satisfies Retention));
    await addAudit(trx, {
      at: now,
      staff_id: viewer.staffId,
      what: 'took back how long is kept',
      subject: '',
      changes: sayKeptChanges(next.days, days ?? DEFAULT_KEPT),
    });
  });
}

/** Between two parts: whoever waits for the write lock gets it. */
const BETWEEN = 2;

/**
 * Lets go of everything whose days are over, a part at a time. Ended at any place, it goes on from there the next time. Waits
 * while a file is taken.
 *
 * @returns how many rows went or were emptied
 */
export async function letGo(runtime: Runtime): Promise<number> {
  const { db, clock, zone, log } = runtime;
  const now = clock.now();
  const { days } = await readRetention(db, now);
  if (days === null || (await isImporting(db))) return 0;
  const today = dayOf(now, zone);
  let all = 0;
  const note = async (kind: KeptKind, subject: string, rows: number, courseId?: number) => {
    if (rows === 0) return;
    all += rows;
    const audit = { at: now, staff_id: null, course_id: courseId, what: `let go of ${kind}`, subject };
    await writing(db, (trx) => addAudit(trx, { ...audit, changes: { rows: [String(rows), '0'] } }));
    log.info({ kind, rows }, 'let go of what is kept no more');
  };
  for (const { course_id, code, kind } of await dueOfCourses(db, days, today)) {
    await rawTransaction(db, (raw) =>
      beginGone(raw, { courseId: course_id, kind, now, today, until: startOfDay(today + 1, zone) }),
    );
    const rows =
      kind === 'events' ? await letGoOfEvents(runtime, course_id) : await letGoByEnrolment(db, kind, course_id);
    await rawTransaction(db, (raw) => endGone(raw, course_id, kind, now));
    await note(kind, code, rows, course_id);
  }
  for (const kind of ['messages', 'notes'] as const) {
    let left: readonly number[] = await learnersEnded(db, endedBy(today, days[kind]));
    let rows = 0;
    while (left.length > 0) {
      const done = await rawTransaction(db, (raw) => emptyTexts(raw, kind, left, now));
      left = done.left;
      rows += done.emptied;
      await pause(BETWEEN);
    }
    await note(kind, '', rows);
  }
  const looks = await oldLooks(db, days, today, zone);
  if (looks === null) return all;
  let rows = 0;
  for (let dropped = 1; dropped > 0; rows += dropped) {
    dropped = await rawTransaction(db, (raw) => dropLooks(raw, looks));
    await pause(BETWEEN);
  }
  await note('looks', '', rows);
  return all;
}

async function letGoOfEvents(runtime: Runtime, courseId: number): Promise<number> {
  return (await dropArchive(runtime, courseId)) + (await dropEventsOf(runtime.db, [courseId]));
}

async function letGoByEnrolment(db: Db, kind: 'visits' | 'readings', courseId: number): Promise<number> {
  let rows = 0;
  for (let after: number | null = 0; after !== null;) {
    const from: number = after;
    const { last, dropped } = await rawTransaction(db, (raw) => dropOfEnrolments(raw, kind, courseId, from));
    rows += dropped;
    after = last;
    await pause(BETWEEN);
  }
  return rows;
}
