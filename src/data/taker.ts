/** What the importers of each kind of file have in common. */
import type { CsvRow } from '@/core/formats/csv-reader';
import type { Fault, Heading } from '@/core/formats/heading';
import type { RawConnection } from './db';

export interface TakeContext {
  heading: Heading;
  /** The import this is. */
  runId: number;
  sourceId: number;
  /** Zone of times that carry no offset. */
  timezone: string;
  /** The programme's zone. */
  zone: string;
  now: number;
}

/** What became of a row. */
export type Outcome = 'accepted' | 'duplicate' | Fault;

/** Takes the rows of one kind of file into the database. */
export interface Taker {
  /** Takes one row, inside the batch's write transaction. */
  take(row: CsvRow): Outcome;
  /** Like take, for a row already taken before the import was interrupted: changes nothing. */
  replay?(row: CsvRow): void;
  /** Called at the end of each batch, in its transaction. */
  endBatch?(): void;
}

export type OpenTaker = (raw: RawConnection, context: TakeContext) => Taker;

export function isFault(outcome: Outcome): outcome is Fault {
  return typeof outcome === 'object';
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
