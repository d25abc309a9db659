/** Long reports, made beside the pages: asked for, worked on, left and come back to, cancelled, kept for 14 days. */
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readFile, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Layout, ReportDefinition } from '@/core/reports/definition';
import { DAY } from '@/core/time/zone';
import {
  addRun,
  allRunIds,
  cancelRun,
  claimReportRun,
  endRun,
  findRunOf,
  forgetRunsBefore,
  noteProgress,
  openReportRuns,
  removeRun,
  runsOf,
  type ReportRun,
} from '@/data/reports/runs';
import type { Viewer } from '@/data/scope';
import { staffById, viewerOf } from '@/data/staff/staff';
import type { ExportFormat } from '../request/exports';
import { InvalidInput, NotFound } from '../request/input';
import { isHeld } from '../owner';
import type { Runtime } from '../runtime';
import { SYSTEM_VIEWER } from '../system-viewer';
import { Cancelled } from './files';
import { reportHere } from './make';

/** Days for which what was made is kept. */
const KEPT_DAYS = 14;
/** How long whoever works on one may be silent, in ms. */
const LEASE = 60_000;
/** How often it is noted how far it is, in ms. */
const NOTE_EVERY = 500;
/** Long reports of one account that may wait or be made at once. */
const MOST_AT_ONCE = 5;

export type ReportFormat = ExportFormat | 'pdf';

/** A long report as it is shown: how far, and where to get it. */
export interface RunShown {
  id: number;
  name: string;
  format: ReportFormat;
  state: ReportRun['state'];
  done: number;
  total: number;
  error: string | null;
  createdAt: number;
  /** Until when it is kept. */
  until: number;
}

function show(run: ReportRun): RunShown {
  const { id, name, format, state, done, total, error, created_at } = run;
  return { id, name, format, state, done, total, error, createdAt: created_at, until: created_at + KEPT_DAYS * DAY };
}

const folderOf = ({ settings }: Pick<Runtime, 'settings'>) => join(settings.dataDir, 'reports');
const pathOf = (runtime: Pick<Runtime, 'settings'>, id: number) => join(folderOf(runtime), String(id));

export interface RunAsked {
  reportId: number | null;
  name: string;
  definition: ReportDefinition;
  format: ReportFormat;
  layout: Layout;
  /** Learners in it, as far as is known. */
  total: number;
}

/** Asks for a report to be made. @throws InvalidInput where somebody has asked for too many at once */
export async function askForRun({ db, clock }: Runtime, viewer: Viewer, asked: RunAsked): Promise<number> {
  const waiting = (await openReportRuns(db)).filter(({ staff_id }) => staff_id === (viewer.staffId || null));
  if (waiting.length >= MOST_AT_ONCE)
    throw new InvalidInput([
      { field: 'format', message: `is for later: ${MOST_AT_ONCE} long reports of yours are being made` },
    ]);
  const { reportId, ...rest } = asked;
  return addRun(db, {
    ...rest,
    report_id: reportId,
    staff_id: viewer.staffId || null,
    names_hidden: Number(viewer.standInKey !== null),
    created_at: clock.now(),
  });
}

/** A run of the viewer's. @throws NotFound */
export async function runOf({ db }: Pick<Runtime, 'db'>, viewer: Viewer, id: string): Promise<RunShown> {
  return show(await ownRun({ db }, viewer, id));
}

async function ownRun({ db }: Pick<Runtime, 'db'>, viewer: Viewer, id: string): Promise<ReportRun> {
  const run = /^\d{1,15}$/.test(id) ? await findRunOf(db, viewer.staffId, Number(id)) : null;
  // Made with names, it is not shown while they are hidden, and the other way round.
  if (!run || run.names_hidden !== Number(viewer.standInKey !== null)) throw new NotFound('No such report of yours');
  return run;
}

/** Runs shown on the page. */
const SHOWN = 20;

export async function recentRuns({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<RunShown[]> {
  const runs = await runsOf(db, viewer.staffId, SHOWN);
  return runs.filter((run) => run.names_hidden === Number(viewer.standInKey !== null)).map(show);
}

/** The file of a run that is done. @throws NotFound where it is not, or is no longer kept */
export async function fileOfRun(
  runtime: Runtime,
  viewer: Viewer,
  id: string,
): Promise<{ run: RunShown; file: Readable; size: number }> {
  const run = await ownRun(runtime, viewer, id);
  const path = pathOf(runtime, run.id);
  const found = run.state === 'done' ? await stat(path).catch(() => null) : null;
  if (!found) throw new NotFound('The file of this report');
  return { run: show(run), file: createReadStream(path), size: found.size };
}

/** Cancels a run of the viewer's; one that has ended stays as it is. @throws NotFound */
export async function cancelOwnRun({ db, clock }: Runtime, viewer: Viewer, id: string): Promise<void> {
  await cancelRun(db, (await ownRun({ db }, viewer, id)).id, clock.now());
}

/** Whoever asked, with the scope that they have at this moment; null where they have left. */
async function askerOf({ db }: Pick<Runtime, 'db'>, run: ReportRun): Promise<Viewer | null> {
  if (run.staff_id === null) return SYSTEM_VIEWER;
  const staff = await staffById(db, run.staff_id);
  return staff && staff.ended_at === null ? viewerOf(db, staff, run.names_hidden === 1) : null;
}

/**
 * Has a report made in somebody's name here and now; gives the number of its run.
 * @throws InvalidInput as openReport does; what the machine says, and then nothing of it is left
 */
export async function makeNow(runtime: Runtime, viewer: Viewer, asked: RunAsked, owner: string): Promise<number> {
  const { db, clock } = runtime;
  const { reportId, ...rest } = asked;
  const id = await addRun(db, {
    ...rest,
    report_id: reportId,
    staff_id: viewer.staffId,
    names_hidden: 0,
    created_at: clock.now(),
    owner,
    lease_until: clock.real() + LEASE,
  });
  try {
    await writeRun(runtime, (await findRunOf(db, viewer.staffId, id))!, viewer, owner);
  } catch (error) {
    await removeRun(db, id);
    throw error;
  }
  return id;
}

/** The file of a run, whoever asks; null where it is no longer kept. */
export async function readRun(runtime: Pick<Runtime, 'settings'>, id: number): Promise<Buffer | null> {
  return readFile(pathOf(runtime, id)).catch(() => null);
}

/** Makes the oldest report that waits and nobody is at. Returns whether there was one. */
export async function workOnReport(runtime: Runtime, owner: string): Promise<boolean> {
  const { db, clock } = runtime;
  const next = (await openReportRuns(db)).find((run) => !isHeld(run, clock.real()));
  if (!next) return false;
  if (!(await claimReportRun(db, next, { owner, lease_until: clock.real() + LEASE }))) return true;
  await makeRun(runtime, next, owner);
  return true;
}

async function makeRun(runtime: Runtime, run: ReportRun, owner: string): Promise<void> {
  const { db, clock, log } = runtime;
  try {
    const viewer = await askerOf(runtime, run);
    if (!viewer) throw new InvalidInput([{ field: 'owner', message: 'has left: nothing is made in their name' }]);
    await writeRun(runtime, run, viewer, owner);
  } catch (error) {
    if (error instanceof Cancelled) return;
    log.error({ err: error, run: run.id }, 'a report could not be made');
    const says = error instanceof InvalidInput ? error.message : 'could not be made: the log says why';
    await endRun(db, run.id, owner, { state: 'failed', ended_at: clock.now(), error: says });
  }
}

/** Writes the file of a run and ends it; of one that does not come to its end nothing is left. */
async function writeRun(runtime: Runtime, run: ReportRun, viewer: Viewer, owner: string): Promise<void> {
  const { db, clock } = runtime;
  const path = pathOf(runtime, run.id);
  const part = `${path}.part`;
  let noted = -Infinity;
  let count = 0;
  const onLearner = async (done: number) => {
    count = done;
    if (performance.now() - noted < NOTE_EVERY) return true;
    noted = performance.now();
    return noteProgress(db, run.id, { owner, done, lease_until: clock.real() + LEASE });
  };
  try {
    await mkdir(folderOf(runtime), { recursive: true });
    const asked = { report: run.definition, title: run.name, viewer, format: run.format, layout: run.layout };
    await pipeline(await reportHere(runtime, asked, onLearner), createWriteStream(part));
    await rename(part, path);
    await endRun(db, run.id, owner, { state: 'done', ended_at: clock.now(), done: count });
  } catch (error) {
    await rm(part, { force: true });
    throw error;
  }
}

/** Takes away what is no longer kept, and files of no run. Returns how many files. */
export async function clearOldReports(runtime: Runtime): Promise<number> {
  const { db, clock } = runtime;
  await forgetRunsBefore(db, clock.now() - KEPT_DAYS * DAY);
  const names = await readdir(folderOf(runtime)).catch(() => []);
  const kept = new Set((await allRunIds(db)).flatMap((id) => [String(id), `${id}.part`]));
  const old = names.filter((name) => !kept.has(name));
  for (const name of old) await rm(join(folderOf(runtime), name), { force: true });
  return old.length;
}
