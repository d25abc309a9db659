/** Taking one file in: streamed, in bounded batches, able to go on after an interruption. */
import { closeSync, existsSync, ftruncateSync, openSync, writeSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { CsvRow } from '@/core/imports/csv-reader';
import { csvLine } from '@/core/imports/cells';
import { NotSuchAFile, datesToIso, readHeading, type Fault, type Heading } from '@/core/imports/heading';
import type { ReadAs } from '@/core/imports/encoding';
import type { Plan } from '@/core/imports/foreign/plan';
import { Survey } from '@/core/imports/foreign/survey';
import type { DateOrder, Mapping } from '@/core/imports/mapping';
import { isGivenUp, rawTransaction } from '@/data/db';
import { addAudit } from '@/data/audit';
import {
  LostImport,
  endRun,
  findRun,
  keepRun,
  noteProgress,
  noteRemarks,
  noteUnknownColumns,
  releaseRun,
  requireOwner,
  type ImportRun,
  type Progress,
} from '@/data/imports/import-runs';
import { IMPORTERS } from '@/data/imports/importers';
import { findOrAdd, type Importer } from '@/data/imports/importer';
import { joinWhatWasMade } from '@/data/imports/join';
import { moveEnrolmentsBack, openForeignImporter } from '@/data/imports/take-foreign';
import { calendarAsRows, isCalendar } from './calendar-file';
import { recalculate, type DerivingProgress } from '../drift/recalculate';
import type { Runtime } from '../runtime';
import { bodyRows, fileEncoding, readRows } from './read-file';

/** An import not heard of for this long is taken over by whoever asks next, in ms. */
export const LEASE = 30_000;
/** How often at most a lease is made longer where there is nothing else to store, and how far it is is noted. */
const KEEP_AGAIN = 5_000;
const NOTE_AGAIN = 500;

/** How often whoever works on an import may break down at the same place: it would happen again. */
const MOST_TRIES = 2;
const TOOK_DOWN =
  'Whoever worked on it ended twice at the same place, so it is not begun again. Rows taken before it stay. Bring it in in smaller chunks.';

export function rejectsPath(runtime: Pick<Runtime, 'settings'>, id: number): string {
  return join(runtime.settings.dataDir, 'rejects', `${id}.csv`);
}

/** Where a file waits: only its name is kept, so that a copy of the data in another folder has its own. */
export function incomingPath({ settings }: Pick<Runtime, 'settings'>, run: Pick<ImportRun, 'path'>): string {
  return join(settings.dataDir, 'incoming', run.path);
}

/** Was it only that something else was being stored? */
function isBusy(error: unknown): boolean {
  return isGivenUp(error) || ((error as { code?: string }).code ?? '').startsWith('SQLITE_BUSY');
}

/** Errors of the machine, not of the file: the import goes on when they have passed. */
function isPassing(error: unknown): boolean {
  const code = (error as { code?: string }).code ?? '';
  return isBusy(error) || code === 'ENOSPC' || code === 'SQLITE_FULL' || code.startsWith('SQLITE_IOERR');
}

/**
 * Runs an import to its end, from the beginning or from where it was interrupted. The
 * caller has claimed it as `owner`. Returns false when it has to be tried again later, by whomever.
 */
export async function runImport(runtime: Runtime, run: ImportRun, owner: string): Promise<boolean> {
  const { db, clock, log } = runtime;
  const heldRun = { id: run.id, owner };
  const keep = keeper(runtime, heldRun);
  try {
    if (run.tries >= MOST_TRIES) throw new NotSuchAFile(TOOK_DOWN);
    const plan: Plan | null = run.plan ? JSON.parse(run.plan) : null;
    if (plan) await takeForeignFile(runtime, run, owner, plan, keep);
    else await takeFile(runtime, run, owner, keep);
    await joinWhatWasMade(db, clock.now(), runtime.zone);
    await recalculate(runtime, { owner, afterStep: keep });
    await endRun(db, heldRun, 'done', clock.now(), null);
    await noteInAudit(runtime, run);
  } catch (error) {
    if (error instanceof LostImport) {
      log.warn({ import: run.id }, 'import was taken over by another process, stopped here');
      return false;
    }
    if (isPassing(error)) {
      log.warn({ import: run.id, err: error }, 'import interrupted, will go on');
      const reason = isBusy(error)
        ? 'Something large is being stored by another process. Nothing is lost: the import goes on by itself after it.'
        : 'The disk is full or cannot be written. Nothing is lost: the import goes on by itself when there is room.';
      await releaseRun(db, run.id, owner, reason).catch(() => undefined);
      return false;
    }
    const known = error instanceof NotSuchAFile;
    if (isMissing(error)) log.warn({ import: run.id }, 'the file of an import is not there');
    else if (!known) log.error({ import: run.id, err: error }, 'import failed');
    const reason = isMissing(error)
      ? 'Its file is not in this data folder: the data were copied without it, or it was removed. Bring it in again.'
      : known
        ? error.message
        : 'Something went wrong inside Lee Shore; the log says what. Rows taken before it stay.';
    if (!(await endRun(db, heldRun, 'failed', clock.now(), reason).then(() => true, isLost))) return false;
  }
  const path = incomingPath(runtime, run);
  for (const one of [path, `${path}.csv`, `${path}.csv.part`]) await rm(one, { force: true });
  return true;
}

function isMissing(error: unknown): boolean {
  return (error as { code?: string }).code === 'ENOENT';
}

/** False for an import that somebody else has; any other trouble stays one. */
function isLost(error: unknown): false {
  if (error instanceof LostImport) return false;
  throw error;
}

/** Makes an import's lease longer now and then; throws when somebody else has it. */
function keeper({ db, clock }: Runtime, { id, owner }: { id: number; owner: string }) {
  let kept = -Infinity;
  return async (progress?: DerivingProgress): Promise<void> => {
    if (clock.real() - kept < (progress ? NOTE_AGAIN : KEEP_AGAIN)) return;
    kept = clock.real();
    await keepRun(db, id, owner, kept + LEASE, progress);
  };
}

/** A file changes many rows at once; the list of changes names the file, and the import says how many. */
async function noteInAudit({ db, clock }: Runtime, run: ImportRun): Promise<void> {
  if (run.kind === 'access-log') return;
  const { accepted, rejected } = (await findRun(db, run.id))!;
  const subject = `${run.file_name} (${run.kind}): ${accepted} taken, ${rejected} rejected`;
  await addAudit(db, { at: clock.now(), staff_id: run.staff_id, what: 'brought in a file', subject });
}

/** How a file's rows are read, where its importer is opened by what all of it names. */
interface ForeignFile {
  plan: Plan;
  survey: Survey;
}

/** Reads a file of another system once through: who and what is in it. */
async function surveyFile(path: string, encoding: ReadAs, plan: Plan, keep: () => Promise<void>): Promise<Survey> {
  const survey = new Survey(plan);
  for await (const rows of bodyRows(path, encoding, plan)) {
    for (const { cells, broken } of rows.rows) if (!broken) survey.add(cells);
    await keep();
  }
  return survey;
}

async function takeForeignFile(
  runtime: Runtime,
  run: ImportRun,
  owner: string,
  plan: Plan,
  keep: ReturnType<typeof keeper>,
): Promise<void> {
  const path = incomingPath(runtime, run);
  const encoding = await fileEncoding(path, () => keep());
  const survey = await surveyFile(path, encoding, plan, keep);
  const intake = await Intake.open(runtime, run, owner, plan.heading, { plan, survey });
  try {
    for await (const { rows, bytes } of bodyRows(path, encoding, plan)) {
      await intake.batch(rows, bytes);
      await keep();
    }
    await rawTransaction(runtime.db, (raw) => moveEnrolmentsBack(raw, runtime.zone));
    await noteRemarks(runtime.db, run.id, intake.notes());
  } finally {
    intake.close();
  }
}

async function takeFile(
  runtime: Runtime,
  run: ImportRun,
  owner: string,
  keep: ReturnType<typeof keeper>,
): Promise<void> {
  const { db } = runtime;
  const sent = incomingPath(runtime, run);
  const path = run.kind === 'sessions' && (await isCalendar(sent)) ? await calendarAsRows(runtime, run, sent) : sent;
  const encoding = await fileEncoding(path, () => keep());
  const mapping: Mapping | null = run.mapping ? JSON.parse(run.mapping) : null;
  let intake: Intake | null = null;
  try {
    for await (const { rows, bytes } of readRows(path, encoding)) {
      if (!intake) {
        const headingCells = rows.shift()!.cells;
        const heading = readHeading(run.kind, headingCells, mapping);
        await noteUnknownColumns(db, run.id, heading.unknown);
        intake = await Intake.open(runtime, run, owner, headingCells, { heading, dates: mapping?.dates ?? 'iso' });
      }
      await intake.batch(rows, bytes);
      await keep();
    }
    if (!intake) throw new NotSuchAFile('It holds nothing but blank lines.');
    await noteRemarks(db, run.id, intake.notes());
  } finally {
    intake?.close();
  }
}

/** A file with headings of ours, or mapped to them. */
interface OwnFile {
  heading: Heading;
  dates: DateOrder;
}

/** One file on its way in: counts, rejects and the importer of its kind. */
class Intake {
  private readonly progress: Progress;
  private toSkip: number;
  private rejects: number | null = null;

  private constructor(
    private readonly runtime: Runtime,
    private readonly run: ImportRun,
    private readonly owner: string,
    private readonly headingCells: readonly string[],
    private readonly importer: Importer,
    /** Null for a file whose importer reads its cells itself. */
    private readonly own: OwnFile | null,
  ) {
    const { read, accepted, duplicate, rejected, waiting, rejects_bytes } = run;
    this.progress = { read, accepted, duplicate, rejected, waiting, bytes_done: 0, rejects_bytes };
    this.toSkip = read;
  }

  static async open(
    runtime: Runtime,
    run: ImportRun,
    owner: string,
    headingCells: readonly string[],
    file: OwnFile | ForeignFile,
  ): Promise<Intake> {
    const { db, clock, zone } = runtime;
    const importer = await rawTransaction(db, (raw) => {
      requireOwner(raw, run.id, owner);
      const context = {
        runId: run.id,
        sourceId: findOrAdd(raw, 'source', run.source),
        timezone: run.timezone,
        zone,
        now: clock.now(),
        before: run.importer_state ? JSON.parse(run.importer_state) : null,
      };
      return 'plan' in file
        ? openForeignImporter(raw, file.plan, file.survey, context)
        : IMPORTERS[run.kind](raw, { ...context, heading: file.heading });
    });
    return new Intake(runtime, run, owner, headingCells, importer, 'plan' in file ? null : file);
  }

  /** Takes a batch in one transaction; what it counts is stored with it, so both or neither stay. */
  async batch(rows: CsvRow[], bytes: number): Promise<void> {
    const skipped = rows.splice(0, Math.min(this.toSkip, rows.length));
    this.toSkip -= skipped.length;
    for (const row of skipped) if (!row.broken) this.importer.replay?.(this.inOurDates(row));
    if (rows.length === 0) return;
    const next = { ...this.progress, bytes_done: bytes };
    await rawTransaction(this.runtime.db, (raw) => {
      // First of all: the file of rejects is one, and belongs to whoever has the import.
      requireOwner(raw, this.run.id, this.owner);
      const lines: string[] = [];
      for (const row of rows) {
        const outcome = row.broken ? { field: '', reason: row.broken } : this.importer.take(this.inOurDates(row));
        next.read += 1;
        if (outcome === 'accepted') next.accepted += 1;
        else if (outcome === 'duplicate') next.duplicate += 1;
        else if (outcome === 'waiting') next.waiting += 1;
        else {
          next.rejected += 1;
          lines.push(this.rejectLine(row, outcome));
        }
      }
      this.importer.endBatch?.();
      if (lines.length > 0) next.rejects_bytes += this.writeRejects(lines.join(''));
      const state = this.importer.state?.();
      const remembered = state === undefined ? null : JSON.stringify(state);
      noteProgress(raw, this.run.id, next, this.runtime.clock.real() + LEASE, remembered);
    });
    Object.assign(this.progress, next);
  }

  /** What there is to say of the file, once all of it is taken. */
  notes(): string[] {
    return this.importer.notes?.() ?? [];
  }

  private inOurDates(row: CsvRow): CsvRow {
    if (this.own === null || this.own.dates === 'iso') return row;
    return { ...row, cells: datesToIso(this.own.heading, this.own.dates, row.cells) };
  }

  /** Every cell as it stood, under the file's own headings: mended, it is the row that it was. */
  private rejectLine(row: CsvRow, fault: Fault): string {
    return csvLine([row.line, fault.field, fault.reason, ...row.cells]);
  }

  /** Appends to the file of rejects, on disk and unbounded: however many there are, all are kept. */
  private writeRejects(text: string): number {
    let written = 0;
    if (this.rejects === null) {
      const path = rejectsPath(this.runtime, this.run.id);
      this.rejects = openSync(path, existsSync(path) ? 'r+' : 'w+');
      // What an interrupted batch had written is not counted, and goes.
      ftruncateSync(this.rejects, this.progress.rejects_bytes);
      if (this.progress.rejects_bytes === 0) text = csvLine(['line', 'field', 'reason', ...this.headingCells]) + text;
    }
    const bytes = Buffer.from(text, 'utf8');
    while (written < bytes.length) {
      written += writeSync(this.rejects, bytes, written, bytes.length - written, this.progress.rejects_bytes + written);
    }
    return bytes.length;
  }

  close(): void {
    if (this.rejects !== null) closeSync(this.rejects);
  }
}
