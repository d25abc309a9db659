/** An iCalendar file on its way in: put into the rows of a sessions file, which are then taken like any other's. */
import { existsSync } from 'node:fs';
import { open, readFile, rename, stat, writeFile } from 'node:fs/promises';
import { csvLine } from '@/core/imports/cells';
import { columnNames } from '@/core/imports/kinds';
import { NotSuchAFile } from '@/core/imports/heading';
import { LOOK_AHEAD, NotACalendar, readCalendar, type CalendarRow } from '@/core/sessions/calendar-read';
import type { ImportRun } from '@/data/imports/import-runs';
import { instancesStored } from '@/data/sessions/sessions';
import type { Runtime } from '../runtime';

/** A calendar is read whole; one of more than this is no term's. */
const LARGEST = 20 * 1024 ** 2;

/** Does a file begin as a calendar does? */
export async function isCalendar(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const head = Buffer.alloc(256);
    const { bytesRead } = await file.read(head, 0, head.length, 0);
    return /^\uFEFF?\s*BEGIN:VCALENDAR/i.test(head.subarray(0, bytesRead).toString('utf8'));
  } finally {
    await file.close();
  }
}

/** The course and group that a file's calendar is of, from `DRY` or `DRY/A`. */
function partOf(part: string | null): { course?: string; group?: string } {
  if (part === null) return {};
  const at = part.indexOf('/');
  return at < 0 ? { course: part, group: '' } : { course: part.slice(0, at), group: part.slice(at + 1) };
}

/** The sessions of a calendar, each instance by itself, as rows of ours. @throws NotSuchAFile */
export async function calendarRows(
  { clock }: Pick<Runtime, 'clock'>,
  { part, timezone }: Pick<ImportRun, 'part' | 'timezone'>,
  path: string,
): Promise<CalendarRow[]> {
  if ((await stat(path)).size > LARGEST) throw new NotSuchAFile('It is a calendar of more than 20 MB.');
  try {
    const options = { ...partOf(part), zone: timezone, until: clock.now() + LOOK_AHEAD };
    const rows = readCalendar(await readFile(path, 'utf8'), options);
    if (rows.length === 0) throw new NotSuchAFile('It is a calendar in which nothing takes place.');
    return rows;
  } catch (error) {
    throw error instanceof NotACalendar ? new NotSuchAFile(error.message) : error;
  }
}

/**
 * Writes a calendar's instances as rows beside it, with those that are stored from an earlier version and are no longer
 * in it as cancelled. Returns the path of the rows.
 * @throws NotSuchAFile
 */
export async function calendarAsRows(
  { db, clock }: Pick<Runtime, 'db' | 'clock'>,
  run: ImportRun,
  path: string,
): Promise<string> {
  const target = `${path}.csv`;
  // Worked out once: what is stored from an earlier version changes as its rows are taken, and an import that was interrupted
  // goes on in the same rows.
  if (existsSync(target)) return target;
  const now = clock.now();
  const rows = await calendarRows({ clock }, run, path);
  const gone = (
    await instancesStored(
      db,
      rows.map((row) => row.session_id),
      now,
    )
  ).map((one) => ({
    ...one,
    starts_at: new Date(one.starts_at).toISOString(),
    ends_at: new Date(one.ends_at).toISOString(),
    cancelled: 'yes',
  }));
  const columns = columnNames('sessions').filter((name) => name !== 'item_id');
  const lines = [...rows, ...gone].map((row) =>
    csvLine(columns.map((name) => (row as unknown as Record<string, string>)[name])),
  );
  await writeFile(`${target}.part`, csvLine(columns) + lines.join(''));
  await rename(`${target}.part`, target);
  return target;
}
