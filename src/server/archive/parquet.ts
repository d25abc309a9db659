/** Events in files of Parquet, the open columnar format: written a group of rows at a time, and read the same way. */
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { open, rename, stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import {
  asyncBufferFromFile,
  parquetMetadataAsync,
  parquetReadObjects,
  type AsyncBuffer,
  type FileMetaData,
} from 'hyparquet';
import { ParquetWriter, fileWriter } from 'hyparquet-writer';
import type { ArchivedEvent } from '@/data/access/log/archived';

/** Rows of a group: what is read for a page. */
export const GROUP = 2000;

const SCHEMA = [
  { name: 'events', num_children: 10 },
  { name: 'id', type: 'INT32', repetition_type: 'REQUIRED' },
  { name: 'at', type: 'INT64', converted_type: 'TIMESTAMP_MILLIS', repetition_type: 'REQUIRED' },
  { name: 'learner', type: 'INT32', repetition_type: 'OPTIONAL' },
  { name: 'staff', type: 'INT32', repetition_type: 'OPTIONAL' },
  { name: 'item', type: 'INT32', repetition_type: 'OPTIONAL' },
  { name: 'action', type: 'INT32', repetition_type: 'REQUIRED' },
  { name: 'address', type: 'BYTE_ARRAY', converted_type: 'UTF8', repetition_type: 'OPTIONAL' },
  { name: 'source', type: 'INT32', repetition_type: 'REQUIRED' },
  { name: 'external_id', type: 'BYTE_ARRAY', converted_type: 'UTF8', repetition_type: 'OPTIONAL' },
  { name: 'statement', type: 'BYTE_ARRAY', converted_type: 'UTF8', repetition_type: 'OPTIONAL' },
] as const;

const COLUMNS = SCHEMA.slice(1).map(({ name }) => name as keyof ArchivedEvent);
/** Numbers that grow from row to row: only what they grow by is written. */
const GROWING = new Set<keyof ArchivedEvent>(['id', 'at']);

/** The name of a file that is being written. */
export const partOf = (path: string) => `${path}.part`;

/** Writes groups of events, in time order, to one file, which has its name only once all of it has reached the disk. */
export class EventFile {
  private readonly part: string;
  private readonly writer: ParquetWriter;
  events = 0;
  firstAt = Infinity;
  lastAt = -Infinity;

  constructor(private readonly path: string) {
    this.part = partOf(path);
    this.writer = new ParquetWriter({ writer: fileWriter(this.part), schema: [...SCHEMA], createdBy: 'Lee Shore' });
  }

  /** Writes some rows, at most a group of them. */
  add(events: readonly ArchivedEvent[]): void {
    if (events.length === 0) return;
    const columnData = COLUMNS.map((name) => ({
      name,
      data: events.map((event) => (name === 'at' ? BigInt(event.at) : event[name])),
      ...(GROWING.has(name) && { encoding: 'DELTA_BINARY_PACKED' as const }),
      // Of texts it would be the texts themselves, which are somebody's.
      statistics: name === 'at',
      // Where a page within a group lies is of no use to whoever reads it whole, and takes as long to read.
      offsetIndex: false,
    }));
    this.writer.write({ columnData, rowGroupSize: events.length });
    this.events += events.length;
    this.firstAt = Math.min(this.firstAt, events[0].at);
    this.lastAt = Math.max(this.lastAt, events[events.length - 1].at);
  }

  /** Ends the file. Returns its size, and the sum by which it is known to be whole. */
  async end(): Promise<{ bytes: number; sum: string }> {
    this.writer.finish();
    const file = await open(this.part, 'r+');
    try {
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(this.part, this.path);
    return { bytes: (await stat(this.path)).size, sum: await sumOf(this.path) };
  }
}

/** SHA-256 of a file, as hex. */
export async function sumOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** A group of rows of a file: where it begins, how many rows it has, and between which instants they lie. */
export interface RowGroup {
  start: number;
  rows: number;
  first: number;
  last: number;
}

/** A file that is open to be read, a group at a time. */
export interface EventReader {
  groups: readonly RowGroup[];
  read: (group: RowGroup) => Promise<ArchivedEvent[]>;
}

/** Opens a file of events. Throws where it is not there, or is none. */
export async function openEvents(path: string): Promise<EventReader> {
  const file = await asyncBufferFromFile(path);
  const metadata = await parquetMetadataAsync(file);
  return { groups: groupsOf(metadata), read: (group) => readGroup(file, metadata, group) };
}

function groupsOf({ row_groups }: FileMetaData): RowGroup[] {
  let start = 0;
  return row_groups.map(({ num_rows, columns }) => {
    const { min_value, max_value } = columns[1].meta_data?.statistics ?? {};
    const group = { start, rows: Number(num_rows), first: Number(min_value), last: Number(max_value) };
    if (!(group.first <= group.last)) throw new Error('a group of rows does not say when they were');
    start += group.rows;
    return group;
  });
}

async function readGroup(
  file: AsyncBuffer,
  metadata: FileMetaData,
  { start, rows }: RowGroup,
): Promise<ArchivedEvent[]> {
  const read = await parquetReadObjects({ file, metadata, rowStart: start, rowEnd: start + rows, columns: COLUMNS });
  if (read.length !== rows) throw new Error('a group of rows is not whole');
  return read.map((row) => ({ ...row, at: (row.at as Date).getTime() }) as ArchivedEvent);
}
