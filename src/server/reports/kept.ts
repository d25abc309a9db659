/** Reports that are kept: made, changed, shared, taken away; each read in the scope of whoever asks. */
import { ArrayMaxSize, IsArray, IsOptional } from 'class-validator';
import { isStaffMember } from '@/core/staff/rights';
import { without } from '@/core/without';
import { addAudit } from '@/data/audit';
import { HIDDEN_TEXT } from '@/data/person';
import {
  addReport,
  changeReport,
  keptReports,
  noteRun,
  removeReport,
  shareReport,
  type KeptReport,
} from '@/data/reports/kept';
import type { Viewer } from '@/data/scope';
import { colleaguesToShareWith } from '@/data/staff/staff-accounts';
import type { ReportDefinition } from '@/core/reports/definition';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { readDefinition } from './define';
import { openReport } from './open';
import { READY_REPORTS } from './ready';

/** A report as it is shown and given to programs. */
export interface ReportShown {
  /** A number, or a word for one that comes ready. */
  id: number | string;
  name: string;
  /** What it is for, of one that comes ready. */
  says: string | null;
  owner: string | null;
  isOwn: boolean;
  isReady: boolean;
  shared: { id: number; name: string }[];
  revision: number;
  changedAt: number | null;
  changedBy: string | null;
  /** Their number; null for a program's, and for one that comes ready. */
  changedById: number | null;
  lastRunAt: number | null;
  definition: ReportDefinition;
}

function show(report: KeptReport, { staffId, standInKey }: Viewer, index: number): ReportShown {
  const { filter } = report.definition.whose;
  const hidden = standInKey !== null;
  return {
    id: report.id,
    // A name, and what was searched for, may hold a person's name.
    name: hidden ? `Report ${index + 1} ${HIDDEN_TEXT}` : report.name,
    says: null,
    owner: report.owner,
    isOwn: report.owner_id === (staffId || null),
    isReady: false,
    shared: report.shared,
    revision: report.revision,
    changedAt: report.changed_at,
    changedBy: report.changed_by,
    changedById: report.changed_by_id,
    lastRunAt: report.last_run_at,
    definition:
      hidden && filter
        ? { ...report.definition, whose: { ...report.definition.whose, filter: without(filter, 'q') } }
        : report.definition,
  };
}

function showReady(id: string): ReportShown {
  const { name, says, definition } = READY_REPORTS[id];
  return {
    id,
    name,
    says,
    owner: null,
    isOwn: false,
    isReady: true,
    shared: [],
    revision: 0,
    changedAt: null,
    changedBy: null,
    changedById: null,
    lastRunAt: null,
    definition,
  };
}

/** The viewer's own reports and those shared with them, then those that come ready. */
export async function reportsOf({ db }: Pick<Runtime, 'db'>, viewer: Viewer): Promise<ReportShown[]> {
  const kept = await keptReports(db, viewer);
  return [...kept.map((report, index) => show(report, viewer, index)), ...Object.keys(READY_REPORTS).map(showReady)];
}

/** @throws NotFound for one that is not there, or not the viewer's */
export async function reportOf({ db }: Pick<Runtime, 'db'>, viewer: Viewer, id: string): Promise<ReportShown> {
  if (Object.hasOwn(READY_REPORTS, id)) return showReady(id);
  const number = /^\d{1,15}$/.test(id) ? Number(id) : 0;
  const [kept] = number === 0 ? [] : await keptReports(db, viewer, number);
  if (!kept) throw new NotFound('No such report');
  return show(kept, viewer, 0);
}

/** Numbers of the learners who were chosen one by one for a report; null where none were. @throws NotFound */
export async function peopleOfKept({ db }: Pick<Runtime, 'db'>, viewer: Viewer, id: string): Promise<number[] | null> {
  return (await definitionOf({ db }, viewer, id)).definition.whose.people ?? null;
}

/** The definition by which a report is made: of one's own, with the words that are hidden on the screen. */
async function definitionOf({ db }: Pick<Runtime, 'db'>, viewer: Viewer, id: string) {
  const shown = await reportOf({ db }, viewer, id);
  if (shown.isReady) return { shown, definition: shown.definition };
  const [kept] = await keptReports(db, viewer, Number(id));
  return { shown, definition: kept.definition };
}

/**
 * A kept report opened for whoever asks, in their scope; that it was run is noted.
 * @throws NotFound, InvalidInput as openReport does
 */
export async function openKept(runtime: Runtime, viewer: Viewer, id: string) {
  const { shown, definition } = await definitionOf(runtime, viewer, id);
  const open = await openReport(runtime, viewer, definition);
  if (!shown.isReady) await noteRun(runtime.db, Number(id), runtime.clock.now());
  return { shown, open };
}

/** Notes that a kept report of the viewer's was run, where it is one. @throws NotFound */
export async function noteKept(runtime: Runtime, viewer: Viewer, id: string | undefined): Promise<void> {
  if (id === undefined || (await reportOf(runtime, viewer, id)).isReady) return;
  await noteRun(runtime.db, Number(id), runtime.clock.now());
}

/** Keeps a report. @throws InvalidInput */
export async function makeReport(runtime: Runtime, viewer: Viewer, values: Values): Promise<number> {
  return keepReport(runtime, viewer, await readDefinition(runtime, viewer, values));
}

interface Named {
  name: string;
  definition: ReportDefinition;
}

/** Keeps a report of a definition that was read. @throws InvalidInput for what is not there */
export async function keepReport(runtime: Runtime, viewer: Viewer, { name, definition }: Named): Promise<number> {
  await openReport(runtime, viewer, definition, { isNew: true });
  const { db, clock } = runtime;
  const at = clock.now();
  return db.transaction(async (trx) => {
    const id = await addReport(trx, { name, definition, staffId: viewer.staffId, at });
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'kept a report', subject: name });
    return id;
  });
}

/** Somebody changed what is changed here: nothing is written over. */
class ChangedMeanwhile extends InvalidInput {
  constructor(by: string | null) {
    super([
      {
        field: 'revision',
        message: `is not the newest: ${by ?? 'somebody'} has changed this report meanwhile. Open it again, or save yours under another name`,
      },
    ]);
  }
}

/**
 * Changes a report of the viewer's own or one shared with them, as they saw it.
 * @throws InvalidInput, also where somebody has changed it since; NotFound
 */
export async function saveReport(runtime: Runtime, viewer: Viewer, id: string, values: Values): Promise<void> {
  const named = await readDefinition(runtime, viewer, values);
  const revision = Number.isSafeInteger(values.revision) ? Number(values.revision) : null;
  await changeKept(runtime, viewer, id, named, revision);
}

/**
 * The same of a definition that was read.
 * @param seen the revision that was changed; null for whichever there is
 */
export async function changeKept(
  runtime: Runtime,
  viewer: Viewer,
  id: string,
  { name, definition }: Named,
  seen: number | null,
): Promise<void> {
  const { db, clock } = runtime;
  const report = await reportOf(runtime, viewer, id);
  if (report.isReady) throw new NotFound('A report that comes ready is saved under a name of its own: it');
  // What is shown of it then is not what it is: its name and what is searched for would be lost.
  if (viewer.standInKey !== null)
    throw new InvalidInput([{ field: 'name', message: 'cannot be saved while names are hidden' }]);
  await openReport(runtime, viewer, definition, { isNew: true });
  const at = clock.now();
  const revision = seen ?? report.revision;
  const isSaved = await changeReport(db, Number(id), revision, { name, definition, staffId: viewer.staffId, at });
  if (!isSaved) throw new ChangedMeanwhile((await reportOf(runtime, viewer, id)).changedBy);
}

class ShareInput {
  @IsOptional()
  @ArrayMaxSize(500, { message: 'are more than 500' })
  @IsArray({ message: 'is not a list of colleagues' })
  staff?: unknown[];
}

/** Colleagues with whom a report may be shared: staff who sign in. A partner's contact neither gives nor gets. */
export async function colleaguesFor({ db }: Pick<Runtime, 'db'>, viewer: Viewer) {
  return isStaffMember(viewer) ? colleaguesToShareWith(db, viewer) : [];
}

/** Shares a report of the viewer's own with these colleagues and nobody else. @throws InvalidInput, NotFound */
export async function shareWith(runtime: Runtime, viewer: Viewer, id: string, values: Values): Promise<void> {
  const { db, clock } = runtime;
  const report = await reportOf(runtime, viewer, id);
  if (!report.isOwn) throw new NotFound('No such report of yours');
  const wanted = readInput(ShareInput, values).staff ?? [];
  const known = await colleaguesFor(runtime, viewer);
  if (!wanted.every((one) => known.some((colleague) => colleague.id === one)))
    throw new InvalidInput([{ field: 'staff', message: 'names somebody who is no colleague of yours' }]);
  const at = clock.now();
  await db.transaction(async (trx) => {
    await shareReport(trx, Number(id), [...new Set(wanted as number[])]);
    const names = known.filter((one) => wanted.includes(one.id)).map((one) => one.name);
    await addAudit(trx, {
      at,
      staff_id: viewer.staffId,
      what: 'shared a report',
      subject: report.name,
      changes: { with: [report.shared.map(({ name }) => name).join(', '), names.join(', ')] },
    });
  });
}

/** Takes a report of the viewer's own away. @throws NotFound */
export async function dropReport(runtime: Runtime, viewer: Viewer, id: string): Promise<void> {
  const { db, clock } = runtime;
  const report = await reportOf(runtime, viewer, id);
  if (!report.isOwn) throw new NotFound('No such report of yours');
  await db.transaction(async (trx) => {
    await removeReport(trx, Number(id));
    const at = clock.now();
    await addAudit(trx, { at, staff_id: viewer.staffId, what: 'took a report away', subject: report.name });
  });
}
