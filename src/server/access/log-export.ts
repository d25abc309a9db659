/** The access log as a file: streamed row by row, however long, and given up when its reader goes away. */
import { Readable } from 'node:stream';
import { setImmediate as breathe } from 'node:timers/promises';
import { csvLine } from '@/core/imports/cells';
import { logCursors, logRowSql, type LogCursor } from '@/data/access/log/page';
import { withRaw } from '@/data/db';
import { anyArchived, logWithArchives } from '../archive/log';
import { headingsOf } from '../request/list';
import { countOpenLog, type OpenLog } from './access-log';
import { LOG_COLUMNS } from './log-columns';
import { isoOrNull } from '../request/values';
import { workbook } from '../request/xlsx';
import type { Runtime } from '../runtime';

const HEADINGS = headingsOf({ columns: LOG_COLUMNS });

export const LOG_FORMATS = ['csv', 'xlsx', 'jsonl'] as const;
export type LogFormat = (typeof LOG_FORMATS)[number];

/** Rows read at a time: a few milliseconds' work, after which the server sees to others. */
const CHUNK = 2000;
/** Bytes that may wait for a slow reader. */
const WAITING = 1_000_000;

/** How far an export has got. */
export interface LogExport {
  staffId: number;
  done: number;
  total: number;
  about: boolean;
  state: 'running' | 'done' | 'left' | 'failed';
}

const KEY = Symbol.for('lee-shore.log-exports');
type Holder = { [KEY]?: Map<string, LogExport> };
/** Ended exports that are still told of. */
const REMEMBERED = 200;

function exports(): Map<string, LogExport> {
  return ((globalThis as Holder)[KEY] ??= new Map());
}

/** The progress of one of a member of staff's own exports; null for any other. */
export function exportProgress(staffId: number, id: string): LogExport | null {
  const found = exports().get(id);
  return found?.staffId === staffId ? found : null;
}

function begin(id: string | undefined, progress: LogExport): LogExport {
  if (id !== undefined) {
    const all = exports();
    all.set(id, progress);
    for (const old of all.keys()) {
      if (all.size <= REMEMBERED) break;
      all.delete(old);
    }
  }
  return progress;
}

/** A row as its SQL gives it: id, at, person, source, then the columns from learner_id on. */
type RawRow = [id: number, at: number, person: number | null, source: number, ...rest: (string | null)[]];

/** The rows of a log in chunks, newest first, as of when each chunk is read. */
async function* chunks(runtime: Pick<Runtime, 'db' | 'settings'>, { view, filter }: OpenLog): AsyncGenerator<RawRow[]> {
  if (await anyArchived(runtime, view, filter)) {
    yield* archivedChunks(runtime, { view, filter });
    return;
  }
  const sql = logRowSql(view.viewer, filter);
  let from: LogCursor | undefined;
  for (;;) {
    const places = await logCursors(runtime.db, view, filter, { limit: CHUNK, from });
    if (places.length === 0) return;
    const rows = await withRaw(
      runtime.db,
      (raw) =>
        raw
          .prepare(sql)
          .raw()
          .all(JSON.stringify(places.map(({ id }) => id))) as RawRow[],
    );
    // json_each gives the ids in order, and the join keeps it.
    yield rows;
    if (places.length < CHUNK) return;
    from = places.at(-1);
    await breathe();
  }
}

/** The same where some of the events are in archives: slower. */
async function* archivedChunks(
  runtime: Pick<Runtime, 'db' | 'settings'>,
  { view, filter }: Pick<OpenLog, 'view' | 'filter'>,
): AsyncGenerator<RawRow[]> {
  let from: LogCursor | undefined;
  for (;;) {
    const { rows, broken } = await logWithArchives(runtime, view, filter, { limit: CHUNK, from });
    // A file with rows missing is taken for the whole of it: none is better.
    if (broken.length > 0) throw new Error(`an archive cannot be read: ${broken.join(', ')}`);
    if (rows.length === 0) return;
    yield rows.map((row) => [
      ...([row.id, row.at, row.person, row.source_id] as const),
      ...[row.learner_id, row.name, row.course, row.item_id, row.item, row.action, row.kind, row.address],
    ]);
    if (rows.length < CHUNK) return;
    from = rows.at(-1);
    await breathe();
  }
}

function cellsOf([, at, , , ...rest]: RawRow): (string | null)[] {
  return [isoOrNull(at), ...rest];
}

async function* csvText(rows: AsyncGenerator<RawRow[]>, progress: LogExport): AsyncGenerator<string> {
  yield `\uFEFF${csvLine(HEADINGS)}`;
  for await (const chunk of rows) {
    progress.done += chunk.length;
    yield chunk.map((row) => csvLine(cellsOf(row))).join('');
  }
}

async function* jsonText(rows: AsyncGenerator<RawRow[]>, progress: LogExport): AsyncGenerator<string> {
  for await (const chunk of rows) {
    progress.done += chunk.length;
    yield chunk
      .map((row) => {
        const cells = cellsOf(row);
        return `${JSON.stringify(Object.fromEntries(HEADINGS.map((name, index) => [name, cells[index]])))}\n`;
      })
      .join('');
  }
}

async function* cellChunks(rows: AsyncGenerator<RawRow[]>, progress: LogExport): AsyncGenerator<(string | null)[][]> {
  for await (const chunk of rows) {
    progress.done += chunk.length;
    yield chunk.map(cellsOf);
  }
}

/** The file's bytes or text, a chunk of rows at a time. */
function contentOf(format: LogFormat, rows: AsyncGenerator<RawRow[]>, progress: LogExport) {
  if (format === 'xlsx') return workbook('Access log', HEADINGS, cellChunks(rows, progress));
  return format === 'csv' ? csvText(rows, progress) : jsonText(rows, progress);
}

const TYPES: Record<LogFormat, string> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  jsonl: 'application/jsonl; charset=utf-8',
};

/**
 * A log as a stream of bytes. It is read only as fast as it is taken; when the reader goes away,
 * nothing more is read.
 * @param id by which its progress can be asked for
 */
export async function exportLog(
  runtime: Pick<Runtime, 'db' | 'zone' | 'log' | 'settings'>,
  open: OpenLog,
  format: LogFormat,
  id?: string,
): Promise<{ body: Readable; type: string; fileName: string; progress: LogExport }> {
  const { total, about } = await countOpenLog(runtime, open);
  const staffId = open.view.viewer.staffId;
  const progress = begin(id, { staffId, done: 0, total, about, state: 'running' });
  const rows = chunks(runtime, open);
  const body = Readable.from(contentOf(format, rows, progress), { objectMode: false, highWaterMark: WAITING });
  body.on('end', () => (progress.state = 'done'));
  body.on('error', (error) => {
    if (progress.state === 'running') progress.state = 'failed';
    runtime.log.warn({ err: error }, 'an export of the log ended early');
  });
  body.on('close', () => {
    if (progress.state === 'running') progress.state = 'left';
    void rows.return(undefined);
  });
  return { body, type: TYPES[format], fileName: `access-log.${format}`, progress };
}
