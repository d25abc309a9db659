/** Archiving a finished course: its events leave the database for files by month, and its figures stay. */
import { stat } from 'node:fs/promises';
import { setTimeout as pause } from 'node:timers/promises';
import { IsNotEmpty, IsString, MaxLength } from 'class-validator';
import { isLead } from '@/core/staff/rights';
import { without } from '@/core/without';
import { dateOfDay, dayOf, startOfDay } from '@/core/time/zone';
import { addAudit } from '@/data/audit';
import {
  addArchive,
  addArchiveFiles,
  archives,
  eventsToArchive,
  noteArchive,
  removeArchive,
  type ArchiveFile,
  type ArchiveRow,
} from '@/data/access/log/archived';
import { countEvents, courseToArchive, endedWithLog } from '@/data/courses/courses';
import { withRaw, writing } from '@/data/db';
import { isImporting } from '@/data/privacy/erasures';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { isoOrNull } from '../request/values';
import type { Runtime } from '../runtime';
import { SYSTEM_VIEWER } from '../system-viewer';
import { dropEventsOf } from './drop-events';
import { dropFile, newName, pathOf, tidyArchives } from './files';
import { EventFile, GROUP, openEvents } from './parquet';

class ArchiveInput {
  @MaxLength(200, { message: 'is too long' })
  @IsString({ message: 'is not a text' })
  @IsNotEmpty({ message: 'is missing' })
  course!: string;
}

const fault = (message: string) => new InvalidInput([{ field: 'course', message }]);

/** Has a course archived that has ended. Asked for twice, the first holds. @throws InvalidInput, NotFound for others than leads */
export async function askArchive({ db, clock, zone }: Runtime, viewer: Viewer, values: Values): Promise<void> {
  if (!isLead(viewer)) throw new NotFound();
  const { course: code } = readInput(ArchiveInput, values);
  const now = clock.now();
  await writing(db, async (trx) => {
    const course = await courseToArchive(trx, code);
    if (!course) throw fault(`names no course: ${code}`);
    if (course.isAsked) return;
    if (!course.hasEvents)
      throw fault('has no events in the log: they are archived, or the time they are kept is over');
    if (course.isProvisional) throw fault('is provisional: an outline makes it one of yours');
    if (course.ends_day === null) throw fault('has no last day: give it one on its settings');
    if (course.ends_day >= dayOf(now, zone))
      throw fault(`has not ended: its last day is ${dateOfDay(course.ends_day)}`);
    await addArchive(trx, course.id, viewer.staffId || null, now);
    const audit = {
      at: now,
      staff_id: viewer.staffId,
      course_id: course.id,
      what: 'had a course archived',
      subject: code,
    };
    await addAudit(trx, audit);
  });
}

/** Takes back what was asked for and has not begun. @throws NotFound where there is none, and for others than leads */
export async function takeBackArchive({ db, clock }: Runtime, viewer: Viewer, code: string): Promise<void> {
  if (!isLead(viewer)) throw new NotFound();
  await writing(db, async (trx) => {
    const one = (await archives(trx, viewer)).find(({ course, state }) => course === code && state === 'asked');
    if (!one) throw new NotFound('No archive that can be taken back');
    // Of a course that was held again, what was archived before stays.
    if (one.files > 0) await noteArchive(trx, one.course_id, { state: 'done', error: null });
    else await removeArchive(trx, one.course_id);
    const audit = { at: clock.now(), staff_id: viewer.staffId, course_id: one.course_id, subject: code };
    await addAudit(trx, { ...audit, what: 'took an archive back' });
  });
}

/** Courses that have ended and can be archived. @throws NotFound for others than leads */
export async function coursesToArchive({ db, clock, zone }: Runtime, viewer: Viewer) {
  if (!isLead(viewer)) throw new NotFound();
  return endedWithLog(db, dayOf(clock.now(), zone));
}

/** Everything archived, or to be, the newest first. @throws NotFound for others than leads */
export async function archivesFor({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<ArchiveRow[]> {
  if (!isLead(viewer)) throw new NotFound();
  return archives(db, viewer);
}

/** The same as a program gets it. */
export async function archivesAnswer(runtime: Runtime, viewer: Viewer) {
  return (await archivesFor(runtime, viewer)).map(({ asked_at, done_at, ...row }) => ({
    ...without(row, 'course_id'),
    asked_at: isoOrNull(asked_at),
    done_at: isoOrNull(done_at),
  }));
}

/**
 * Archives what was asked for: files first, which are read again and compared, and then the events go, a part at a time. Ended at
 * any place, it goes on from there. Waits while a file is taken.
 *
 * @param again also those that could not be archived before
 * @returns how many courses were archived
 */
export async function archiveNext(runtime: Runtime, again = true): Promise<number> {
  const { db, clock, log } = runtime;
  const open = (await archives(db, SYSTEM_VIEWER))
    .filter(({ state, error }) => state !== 'done' && (again || error === null))
    .reverse();
  if (open.length === 0 || (await isImporting(db))) return 0;
  await tidyArchives(runtime);
  const written: ArchiveRow[] = [];
  for (const one of open) {
    try {
      if (one.state === 'emptying' || (await writeFiles(runtime, one))) written.push(one);
    } catch (error) {
      const isFull = (error as { code?: string }).code === 'ENOSPC';
      const says = isFull
        ? 'the disk is full: nothing was changed'
        : 'its files could not be written: nothing was changed';
      await writing(db, (trx) => noteArchive(trx, one.course_id, { error: says }));
      log.error({ err: error }, 'an archive could not be written');
    }
  }
  if (written.length === 0) return 0;
  await dropEventsOf(
    db,
    written.map(({ course_id }) => course_id),
  );
  await writing(db, async (trx) => {
    for (const { course_id } of written)
      await noteArchive(trx, course_id, { state: 'done', done_at: clock.now(), error: null });
  });
  log.info({ courses: written.length }, 'archived courses');
  return written.length;
}

/** Writes a course's files. Returns whether they hold everything there is: not, where an event came meanwhile. */
async function writeFiles(runtime: Runtime, { course_id, course }: ArchiveRow): Promise<boolean> {
  const made: MadeFile[] = [];
  let isKept = false;
  try {
    const ids = await writeMonths(runtime, { course_id, course }, made);
    const written = made.reduce((sum, { events }) => sum + events, 0);
    if ((await sumOfIds(runtime, made)) !== ids) throw new Error('what was written is not what was read');
    isKept = await writing(runtime.db, async (trx) => {
      // Another process may have archived it meanwhile, or whoever asked have taken it back.
      const isAsked = (await archives(trx, SYSTEM_VIEWER)).some(
        (one) => one.course_id === course_id && one.state === 'asked',
      );
      if (!isAsked || (await countEvents(trx, course_id)) !== written) return false;
      for (const { name, bytes } of made)
        if ((await stat(pathOf(runtime, name)).catch(() => null))?.size !== bytes) return false;
      await addArchiveFiles(trx, made);
      const to_day = dayOf(runtime.clock.now(), runtime.zone);
      const to_at = startOfDay(to_day + 1, runtime.zone);
      await noteArchive(trx, course_id, { state: 'emptying', error: null, to_day, to_at });
      return true;
    });
  } finally {
    if (!isKept) for (const { name } of made) await dropFile(runtime, name);
  }
  return isKept;
}

type MadeFile = Omit<ArchiveFile, 'id' | 'course'>;

/**
 * Writes the months of a course's events one by one.
 *
 * @param made gets each file as it is begun, so that whoever fails knows what is there
 * @returns the sum of the events' numbers
 */
async function writeMonths(
  { db, zone, settings }: Runtime,
  { course_id, course }: Pick<ArchiveRow, 'course_id' | 'course'>,
  made: MadeFile[],
): Promise<number> {
  let ids = 0;
  let file: EventFile | null = null;
  const end = async () => {
    if (file === null) return;
    const { events, firstAt: first_at, lastAt: last_at } = file;
    Object.assign(made[made.length - 1], { events, first_at, last_at, ...(await file.end()) });
    file = null;
  };
  for (let after = { at: -8.64e15, id: 0 }; ;) {
    const from = after;
    const events = await withRaw(db, (raw) => eventsToArchive(raw, course_id, from, GROUP));
    if (events.length === 0) break;
    for (let start = 0; start < events.length;) {
      const month = monthOf(events[start].at, zone);
      let stop = events.length;
      if (monthOf(events[stop - 1].at, zone) !== month)
        stop = events.findIndex(({ at }, index) => index > start && monthOf(at, zone) !== month);
      if (made.at(-1)?.month !== month) await end();
      if (file === null) {
        const name = newName(course, month);
        made.push({ course_id, month, name, events: 0, bytes: 0, sum: '', first_at: 0, last_at: 0 });
        file = new EventFile(pathOf({ settings }, name));
      }
      file.add(events.slice(start, stop));
      start = stop;
    }
    for (const { id } of events) ids += id;
    const last = events[events.length - 1];
    after = { at: last.at, id: last.id };
    await pause(0);
  }
  await end();
  return ids;
}

const monthOf = (at: number, zone: string) => dateOfDay(dayOf(at, zone)).slice(0, 7);

/** What the files hold, read again from the disk. */
async function sumOfIds(runtime: Runtime, made: readonly { name: string }[]): Promise<number> {
  let sum = 0;
  for (const { name } of made) {
    const reader = await openEvents(pathOf(runtime, name));
    for (const group of reader.groups) for (const { id } of await reader.read(group)) sum += id;
  }
  return sum;
}
