/** Statements read back by the standard's filters. */
import type { JsonObject } from '@/core/feed/xapi/values';
import type { SAID_OF } from '@/core/feed/xapi/read';
import { withRaw, type Db, type RawConnection } from '@/data/db';

/** The standard's filters: keys that a statement, or one that it is about, must have all of. */
export interface StatementFilter {
  keys: { what: (typeof SAID_OF)[number]; key: string }[];
  /** Stored after this instant, and up to that one. */
  since?: number;
  until?: number;
}

export interface StatementPage {
  limit: number;
  ascending: boolean;
  /** After this one, in the order asked for. */
  beyond?: number;
}

export interface StoredStatement {
  id: number;
  stored: number;
  body: JsonObject;
}

interface Row {
  id: number;
  stored: number;
  body: string;
}

const read = (rows: Row[]): StoredStatement[] => rows.map((row) => ({ ...row, body: JSON.parse(row.body) }));

/** From which kind of key the others are asked: the one that usually leads to the fewest comes first. */
const FEWEST_FIRST = ['registration', 'actor', 'agent', 'object', 'activity', 'verb'];

/** Ids are given in the order of storing, so a time is a place among them. */
function idUpTo(raw: RawConnection, sourceId: number, stored: number): number {
  const last = raw
    .prepare('SELECT id FROM statement WHERE source_id = ? AND stored <= ? ORDER BY stored DESC, id DESC LIMIT 1')
    .pluck()
    .get(sourceId, stored);
  return (last as number | undefined) ?? 0;
}

/**
 * Statements of a source that match, in the order they were stored in; void ones left out. One that
 * is about another statement matches by what that one says as well. Walks the index of one key.
 */
export async function findStatements(
  db: Db,
  sourceId: number,
  { keys, since, until }: StatementFilter,
  { limit, ascending, beyond }: StatementPage,
): Promise<StoredStatement[]> {
  return withRaw(db, (raw) => {
    const findKey = raw.prepare('SELECT id FROM statement_key WHERE source_id = ? AND key = ?').pluck();
    const known = [...keys]
      .sort((a, b) => FEWEST_FIRST.indexOf(a.what) - FEWEST_FIRST.indexOf(b.what))
      .map(({ what, key }) => [what, findKey.get(sourceId, key)] as [string, number | undefined]);
    if (known.some(([, id]) => id === undefined)) return [];
    const low = Math.max(since === undefined ? 0 : idUpTo(raw, sourceId, since), ascending ? (beyond ?? 0) : 0);
    const high = Math.min(
      until === undefined ? Number.MAX_SAFE_INTEGER : idUpTo(raw, sourceId, until),
      !ascending && beyond !== undefined ? beyond - 1 : Number.MAX_SAFE_INTEGER,
    );
    const order = ascending ? 'ASC' : 'DESC';
    const [first, ...rest] = known.map((_, index) => `l${index}`);
    const place = first === undefined ? 's.id' : `${first}.statement_id`;
    const from = first === undefined ? 'statement s INDEXED BY statement_source' : 'statement_link l0';
    const joins = rest.map((link) => `CROSS JOIN statement_link ${link} USING (statement_id, via)`);
    if (first !== undefined) joins.push(`CROSS JOIN statement s ON s.id = ${place}`);
    const are = known.map((_, index) => `l${index}.what = ? AND l${index}.key_id = ? AND `);
    const sql = `SELECT s.id, s.stored, s.body FROM ${from} ${joins.join(' ')}
      WHERE ${are.join('')} s.source_id = ? AND s.state <> 'voided' AND ${place} > ? AND ${place} <= ?
      GROUP BY ${place} ORDER BY ${place} ${order} LIMIT ?`;
    return read(raw.prepare(sql).all(...known.flat(), sourceId, low, high, limit) as Row[]);
  });
}

/** One statement of a source, by its id; void ones only when asked for, and then alone. */
export async function findStatement(
  db: Db,
  sourceId: number,
  uuid: string,
  isVoided: boolean,
): Promise<StoredStatement | null> {
  const row = await db('statement')
    .where({ source_id: sourceId, uuid })
    .where('state', isVoided ? '=' : '<>', 'voided')
    .first('id', 'stored', 'body');
  return row ? read([row])[0] : null;
}
