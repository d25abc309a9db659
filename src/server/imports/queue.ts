/** Which import is worked on, by whom: one at a time, whatever processes there are. */
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import { FILE_KIND_NAMES, type FileKindName } from '@/core/imports/kinds';
import { IsZone } from '@/core/imports/validators';
import { HOUR } from '@/core/time/zone';
import { addRun, claimRun, findRun, openRuns } from '@/data/imports/import-runs';
import { findSegment } from '@/data/courses/segments';
import type { Viewer } from '@/data/scope';
import { findSession } from '@/data/sessions/sessions';
import { InvalidInput, readInput, type Values } from '../request/input';
import { isHeld, isOfThisProcess } from '../owner';
import type { Runtime } from '../runtime';
import { mappingFor } from './mapping';
import { LEASE, incomingPath, runImport } from './run';

/** Largest file taken, in bytes. */
const LARGEST_FILE = 2 * 1024 ** 3;

/** What is said of a file that comes in. */
class ImportRequest {
  @IsIn(FILE_KIND_NAMES, { message: `is not one of ${FILE_KIND_NAMES.join(', ')}` }) kind!: FileKindName;
  @IsOptional() @MaxLength(100, { message: 'is longer than 100 characters' }) source?: string;
  @IsOptional() @IsZone() timezone?: string;
  @IsOptional() @MaxLength(255, { message: 'is longer than 255 characters' }) file_name?: string;
  /** Which column is what, as JSON: remembered for the source. Left out, the remembered one is used. */
  @IsOptional() @MaxLength(20_000, { message: 'is longer than 20,000 characters' }) mapping?: string;
  /** The session that a file of presence is of, by its id. */
  @IsOptional() @MaxLength(200, { message: 'is longer than 200 characters' }) session?: string;
  /** The course, and its group, that a calendar is of: `DRY`, or `DRY/A`. */
  @IsOptional() @MaxLength(400, { message: 'is longer than 400 characters' }) part?: string;
}

/** Stores a file and puts it in the queue. @throws InvalidInput */
export async function receiveFile(
  runtime: Runtime,
  viewer: Viewer,
  values: Values,
  body: ReadableStream<Uint8Array> | Readable | null,
): Promise<number> {
  const request = readInput(ImportRequest, values);
  const source = request.source ?? 'files';
  await checkParts(runtime, viewer, request);
  const mapping = await mappingFor(runtime.db, viewer, source, request.kind, request.mapping);
  const name = randomUUID();
  const path = incomingPath(runtime, { path: name });
  const content = body === null ? Readable.from([]) : body instanceof Readable ? body : Readable.fromWeb(body as never);
  try {
    await pipeline(content, limited, createWriteStream(path));
    return await addRun(runtime.db, {
      kind: request.kind,
      source,
      timezone: request.timezone ?? mapping?.timezone ?? runtime.zone,
      mapping: mapping && JSON.stringify(mapping),
      session: request.session ?? null,
      part: request.part ?? null,
      file_name: request.file_name ?? `${request.kind}.csv`,
      path: name,
      size: (await stat(path)).size,
      created_at: runtime.clock.now(),
      staff_id: viewer.staffId || null,
    });
  } catch (error) {
    await rm(path, { force: true });
    throw error;
  }
}

/** @throws InvalidInput for a session or a course that is not there */
async function checkParts({ db }: Runtime, viewer: Viewer, { session, part }: ImportRequest): Promise<void> {
  if (session !== undefined && (await findSession(db, { viewer, segment: {} }, session)) === null) {
    throw new InvalidInput([{ field: 'session', message: `is not known: there is no session ${session}` }]);
  }
  if (part === undefined) return;
  const names = part.includes('/') ? { group: part } : { course: part };
  if ((await findSegment(db, viewer, names)) === null) {
    throw new InvalidInput([{ field: 'part', message: `is not known: there is no course or group ${part}` }]);
  }
}

async function* limited(chunks: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
  let size = 0;
  for await (const chunk of chunks) {
    size += chunk.length;
    if (size > LARGEST_FILE) throw new InvalidInput([{ field: 'file', message: 'is larger than 2 GB' }]);
    yield chunk;
  }
}

/** A file that has been coming in for longer than this is coming no more, in ms. */
const COMING_FOR = 6 * HOUR;

/** Clears away chunks of uploads that broke off: files that no import waits for. Returns how many. */
export async function clearBrokenUploads(runtime: Pick<Runtime, 'settings' | 'db' | 'clock'>): Promise<number> {
  const { db, settings, clock } = runtime;
  const folder = join(settings.dataDir, 'incoming');
  const wanted = new Set((await openRuns(db)).map((run) => run.path));
  let cleared = 0;
  for (const name of await readdir(folder)) {
    const path = join(folder, name);
    const age = clock.real() - (await stat(path)).mtimeMs;
    if (wanted.has(name) || age < COMING_FOR) continue;
    await rm(path, { force: true, recursive: true });
    cleared += 1;
  }
  return cleared;
}

/**
 * Works on the oldest import that nobody is working on. Returns what became of it:
 * `idle` when there is none, `again` when the machine could not do it now.
 */
export async function workOnNext(runtime: Runtime, owner: string): Promise<'done' | 'idle' | 'again'> {
  const { db, clock } = runtime;
  const runs = await openRuns(db);
  const taken = runs.find((run) => run.owner !== owner && isHeld(run, clock.real()));
  const next = runs[0];
  if (taken || !next) return 'idle';
  // Whoever was at it and has let go while this process goes on has broken down: out of memory, as a rule.
  const hasBrokenDown = next.owner !== null && next.owner !== owner && isOfThisProcess(next.owner);
  const claim = { owner, lease_until: clock.real() + LEASE, tries: next.tries + Number(hasBrokenDown) };
  if (!(await claimRun(db, next.id, next, claim))) return 'idle';
  // What was counted since it was seen is counted from here on.
  const run = (await findRun(db, next.id))!;
  return (await runImport(runtime, run, owner)) ? 'done' : 'again';
}
