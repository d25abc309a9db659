/** What the importers of each kind of file have in common. */
import type { CsvRow } from '@/core/imports/csv-reader';
import type { Fault, Heading } from '@/core/imports/heading';
import type { RawConnection } from '../db';

export interface ImportContext {
  heading: Heading;
  /** The import this is. */
  runId: number;
  sourceId: number;
  /** Zone of times that carry no offset. */
  timezone: string;
  /** The programme's zone. */
  zone: string;
  now: number;
  /** When the file was made, where that is known; else it is of now. */
  madeAt?: number;
  /** What the importer remembered when the import was interrupted; null at its beginning. */
  before?: unknown;
}

/** What became of a row: one that waits does so until somebody says whom it is about. */
export type Outcome = 'accepted' | 'duplicate' | 'waiting' | Fault;

/** Takes the rows of one kind of file into the database. */
export interface Importer {
  /** Takes one row, inside the batch's write transaction. */
  take(row: CsvRow): Outcome;
  /** Like take, for a row already taken before the import was interrupted: changes nothing. */
  replay?(row: CsvRow): void;
  /** Called at the end of each batch, in its transaction. */
  endBatch?(): void;
  /**
   * What it remembers of the rows so far, as JSON: stored with each batch, so that an import that was interrupted goes on as if
   * it had not been.
   */
  state?(): unknown;
  /** What there is to say of the file beside its counts, once all of it is taken. */
  notes?(): string[];
}

export type OpenImporter = (raw: RawConnection, context: ImportContext) => Importer;

export function isFault(outcome: Outcome): outcome is Fault {
  return typeof outcome === 'object';
}

/**
 * Tells which names are another's but for capitals or the way their letters are composed: two that
 * look alike are a slip, not two things. One that is stored already stays as it is.
 * @param sql SELECT of names, each after what it belongs to (a course's id) where that matters
 * @returns a function that gives the name there is, or null; a new one is remembered
 */
export function openAlike(raw: RawConnection, sql: string): (name: string, of?: number) => string | null {
  const exact = new Set<string>();
  const folded = new Map<string, string>();
  const add = (name: string, of: number) => {
    exact.add(`${of}/${name}`);
    folded.set(`${of}/${foldName(name)}`, name);
  };
  for (const row of raw.prepare(sql).raw().all() as [number, string][]) add(row[1], row[0]);
  return (name, of = 0) => {
    if (exact.has(`${of}/${name}`)) return null;
    const other = folded.get(`${of}/${foldName(name)}`);
    if (other === undefined) add(name, of);
    return other ?? null;
  };
}

function foldName(name: string): string {
  return name.normalize('NFC').toLowerCase();
}

/** What is wrong with a name that is another's but for its spelling. */
export function alikeFault(field: string, other: string | null): Fault | null {
  return other === null ? null : { field, reason: `is ${other} in another spelling: write it the same` };
}

/** The id of a row found by its name, made when it is new. */
export function findOrAdd(raw: RawConnection, table: 'organisation' | 'source', name: string): number {
  const found = raw.prepare(`SELECT id FROM ${table} WHERE name = ?`).get(name) as { id: number } | undefined;
  return found?.id ?? Number(raw.prepare(`INSERT INTO ${table} (name) VALUES (?)`).run(name).lastInsertRowid);
}

/**
 * Prepares `SELECT id …` and `INSERT …` once, and finds or makes ids by key, remembering
 * them. The parts of the key are ?1, ?2 … in both.
 */
export function idFinder(raw: RawConnection, select: string, insert: string): (...key: (string | number)[]) => number {
  const find = raw.prepare(select).pluck();
  const add = raw.prepare(insert);
  const known = new Map<string, number>();
  return (...key) => {
    const name = key.join('\u0000');
    let id = known.get(name);
    if (id === undefined) {
      const numbered = Object.fromEntries(key.map((part, index) => [index + 1, part]));
      id = (find.get(numbered) as number | undefined) ?? Number(add.run(numbered).lastInsertRowid);
      known.set(name, id);
    }
    return id;
  };
}
