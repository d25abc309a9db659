/** Files that were dropped on the page: looked at, and taken when somebody has seen what would become of them. */
import { rm } from 'node:fs/promises';
import type { Readable } from 'node:stream';
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { shapeOf } from '@/core/imports/foreign/plan';
import type { ColumnRole } from '@/core/imports/foreign/roles';
import { NotSuchAFile } from '@/core/imports/heading';
import { foldHeading } from '@/core/imports/heading-name';
import { FILE_KIND_NAMES, type FileKindName } from '@/core/imports/kinds';
import { DATE_ORDERS, type DateOrder } from '@/core/imports/mapping';
import { IsInstant } from '@/core/imports/validators';
import { parseInstant } from '@/core/time/instant';
import { sayCount } from '@/core/time/words';
import { addAudit } from '@/data/audit';
import { withRaw, writing } from '@/data/db';
import { addRun, findRun, offeredRuns, removeRun, setPlan, setSaid, type ImportRun } from '@/data/imports/import-runs';
import { findShape, rememberShape, forgetShape as removeShape } from '@/data/imports/remembered-shapes';
import { hasAnyLearner } from '@/data/people/roster';
import type { Viewer } from '@/data/scope';
import { NotFound, fields, readInput, type Values } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';
import { headingOf, howToRead, lookAtFile, type FileChoices, type NewRun } from './how-to-read';
import { checkParts, inOrder, storeFile } from './receive';
import { lookAtOffered, type OfferedFile } from './look-at-offered';
import { incomingPath } from './run';

/** Stores a file for somebody to look at; leads alone. Returns the numbers of its tables. @throws InvalidInput */
export async function offerFile(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  body: ReadableStream<Uint8Array> | Readable | null,
): Promise<number[]> {
  requireLead(viewer);
  const { request, tables, begin } = await storeFile(runtime, viewer, { ...values, kind: 'auto' }, body);
  // An empty installation has nobody to know: what is missing is made, unless somebody says otherwise.
  const create = !(await withRaw(runtime.db, hasAnyLearner));
  const choices: FileChoices = {
    ...{ kind: null, course: request.course ?? null, session: null, create, madeAt: null, dates: null },
    timezone: request.timezone ?? runtime.zone,
    isOffered: true,
  };
  const ids: number[] = [];
  for (const table of tables) {
    const settled = await settledAs(runtime, request.source ?? 'files', choices, table.path);
    const run = {
      ...(await begin(table)),
      kind: 'participants' as const,
      mapping: null,
      plan: JSON.stringify(settled),
    };
    ids.push(await addRun(runtime.db, { ...run, state: 'offered' }));
  }
  return ids;
}

/** What was settled of files of the same shape before, else what is said of this one. */
async function settledAs(runtime: Runtime, source: string, choices: FileChoices, path: string): Promise<FileChoices> {
  try {
    const looked = await lookAtFile(runtime, choices, { path });
    const settled = await findShape<FileChoices>(runtime.db, source, shapeOf(headingOf(looked)));
    return settled ? { ...settled, madeAt: null, course: choices.course ?? settled.course } : choices;
  } catch (error) {
    if (error instanceof NotSuchAFile) return choices;
    throw error;
  }
}

/** Every file that waits for somebody to look at it. */
export async function offeredFiles(runtime: Runtime, viewer: Viewer): Promise<OfferedFile[]> {
  requireLead(viewer);
  const files: OfferedFile[] = [];
  for (const run of await offeredRuns(runtime.db)) files.push(await lookAtOffered(runtime, run));
  return files;
}

class ChoicesInput {
  @IsOptional() @MaxLength(100, { message: 'is longer than 100 characters' }) source?: string;
  @IsOptional() @MaxLength(400, { message: 'is longer than 400 characters' }) part?: string;
  @IsOptional() @IsIn(FILE_KIND_NAMES, { message: `is not one of ${FILE_KIND_NAMES.join(', ')}` }) kind?: FileKindName;
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) course?: string;
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) session?: string;
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not one of yes, no' }) create?: 'yes' | 'no';
  @IsOptional() @IsInstant() made_at?: string;
  @IsOptional() @IsIn(DATE_ORDERS, { message: `is not one of ${DATE_ORDERS.join(', ')}` }) dates?: DateOrder;
}

async function requireOffered({ db }: Runtime, viewer: Viewer, id: number): Promise<ImportRun> {
  requireLead(viewer);
  const run = Number.isInteger(id) ? await findRun(db, id) : null;
  if (run?.state !== 'offered') throw new NotFound('No such file');
  return run;
}

/** Says something of a file, or of one of its columns; what is left out stays. @throws InvalidInput, NotFound */
export async function chooseForFile(runtime: Runtime, viewer: Viewer, id: number, values: Values): Promise<void> {
  const run = await requireOffered(runtime, viewer, id);
  const input = readInput(ChoicesInput, values);
  const before: FileChoices = JSON.parse(run.plan!);
  const said = (name: keyof ChoicesInput) => name in fields(values);
  const after: FileChoices = {
    ...before,
    ...(said('kind') && { kind: input.kind ?? null, roles: undefined, mapping: undefined }),
    ...(said('course') && { course: input.course || null }),
    ...(said('session') && { session: input.session || null }),
    ...(said('create') && { create: input.create === 'yes' }),
    ...(said('made_at') && { madeAt: input.made_at ? parseInstant(input.made_at, before.timezone) : null }),
    ...(said('dates') && { dates: input.dates ?? null }),
  };
  await setPlan(runtime.db, id, after);
  if (said('part')) {
    await checkParts(runtime, viewer, { part: input.part || undefined });
    await setSaid(runtime.db, id, { part: input.part || null });
  }
  if (said('source')) await setSaid(runtime.db, id, { source: input.source || 'files' });
  if (after.course === before.course) return;
  // What is said of one file holds for the others of which nothing has been said: they came together.
  for (const other of await offeredRuns(runtime.db)) {
    const choices: FileChoices = JSON.parse(other.plan!);
    if (choices.course === null || choices.course === before.course)
      await setPlan(runtime.db, other.id, { ...choices, course: after.course });
  }
}

/** Says which item of its course a text of a file is; an empty id for one that is new. @throws NotFound */
export async function chooseItem(runtime: Runtime, viewer: Viewer, id: number, title: string, itemId: string) {
  const run = await requireOffered(runtime, viewer, id);
  const before: FileChoices = JSON.parse(run.plan!);
  const itemsSaid = Object.fromEntries(
    Object.entries({ ...before.itemsSaid, [title]: itemId }).filter(([, said]) => said !== ''),
  );
  await setPlan(runtime.db, id, { ...before, itemsSaid });
}

/** Says what a column is. @throws NotFound */
export async function chooseColumn(
  runtime: Runtime,
  viewer: Viewer,
  id: number,
  index: number,
  role: string,
): Promise<void> {
  const run = await requireOffered(runtime, viewer, id);
  const before: FileChoices = JSON.parse(run.plan!);
  const { recognition, head } = await lookAtFile(runtime, before, run);
  if (recognition.how === 'foreign') {
    await setPlan(runtime.db, id, { ...before, roles: { ...before.roles, [index]: role as ColumnRole } });
    return;
  }
  const heading = foldHeading(head.rows[0]?.[index] ?? '');
  await setPlan(runtime.db, id, {
    ...before,
    mapping: { ...before.mapping, [heading]: role === 'nothing' ? null : role },
  });
}

/** Takes every file that was looked at, in the order in which they are best taken. @throws NotRecognised for one of which something has to be said */
export async function takeOffered(runtime: Runtime, viewer: Viewer): Promise<number> {
  requireLead(viewer);
  const { db } = runtime;
  const offered = await offeredRuns(db);
  const runs: NewRun[] = [];
  for (const run of offered) {
    const choices: FileChoices = JSON.parse(run.plan!);
    const table = { path: run.path, notes: JSON.parse(run.notes) as string[] };
    const read = await howToRead(runtime, choices, null, table);
    const looked = await lookAtFile(runtime, choices, run);
    await rememberShape(db, run.source, shapeOf(headingOf(looked)), choices, runtime.clock.now());
    const { source, file_name, path, size, staff_id, part } = run;
    const common = {
      source,
      file_name,
      path,
      size,
      staff_id,
      part,
      timezone: choices.timezone,
      session: choices.session,
    };
    runs.push({ ...common, created_at: runtime.clock.now(), notes: run.notes, ...read });
  }
  const ids = new Map(offered.map(({ path, id }) => [path, id]));
  // Together, and each once: two may press at the same time, and whoever is killed between has taken all or none.
  return writing(db, async (trx) => {
    let taken = 0;
    for (const run of inOrder(runs)) {
      if (!(await removeRun(trx, ids.get(run.path)!))) continue;
      await addRun(trx, run);
      taken += 1;
    }
    return taken;
  });
}

/** Leaves a file out: nothing of it is taken. @throws NotFound */
export async function leaveOut(runtime: Runtime, viewer: Viewer, id: number): Promise<void> {
  const run = await requireOffered(runtime, viewer, id);
  await removeRun(runtime.db, run.id);
  await rm(incomingPath(runtime, run), { force: true });
}

/** Forgets what was settled of files with some headings: the next one is looked at anew. @throws NotFound */
export async function forgetShape(runtime: Runtime, viewer: Viewer, source: string, shape: string): Promise<void> {
  requireLead(viewer);
  const { db, clock } = runtime;
  if (!(await removeShape(db, source, shape))) throw new NotFound('No such file');
  const subject = `files from ${source}`;
  await addAudit(db, { at: clock.now(), staff_id: viewer.staffId, what: 'forgot a mapping', subject });
}

/** What was said of files of a shape, in words. */
export function sayShape(spec: string): string {
  const { kind, course, dates, create, mapping, roles }: Partial<FileChoices> = JSON.parse(spec);
  const columns = Object.keys(mapping ?? roles ?? {}).length;
  return [
    kind ?? 'as it is recognised',
    course ? `of ${course}` : null,
    dates ? dates.replace('_', ' ') : null,
    create ? 'what is missing is made' : null,
    columns > 0 ? `${sayCount(columns, 'column')} said by hand` : null,
  ]
    .filter(Boolean)
    .join(' · ');
}
