/** Statements as they came, and the events made of them. */
import { actorId, readStatement, saysTheSame, verbWord, type SaidStatement } from '@/core/xapi/read';
import { instantOf, type JsonObject } from '@/core/xapi/values';
import type { Db, RawConnection } from '../db';
import { EventWriter } from '../event-writer';
import { CLOCK_TOLERANCE } from '../take-access-log';
import { openDirectory, type Directory } from './who-and-what';

/** A statement on its way in: complete, with what the store adds. */
export interface IncomingStatement {
  uuid: string;
  body: JsonObject;
}

/** A stored statement with this id says something else. */
export class StatementConflict extends Error {
  override name = 'StatementConflict';
}

export interface StoreContext {
  sourceId: number;
  zone: string;
  now: number;
}

interface StatementRow {
  id: number;
  uuid: string;
  at: number;
  source_id: number;
  event_id: number | null;
  body: string;
}

/** Takes statements of one source inside the caller's write transaction. */
class StatementTaker {
  private readonly writer: EventWriter;
  private readonly sql;
  private ahead = 0;

  constructor(
    raw: RawConnection,
    private readonly directory: Directory,
    private readonly context: StoreContext,
  ) {
    // A few at a time: what they touch is noted as narrowly as it is.
    this.writer = new EventWriter(raw, context.sourceId, context.zone, 0);
    this.sql = {
      settle: raw.prepare('UPDATE statement SET state = ?, waits_for = ?, event_id = ? WHERE id = ?'),
      stored: raw.prepare('SELECT 1 FROM event WHERE source_id = ? AND external_id = ?').pluck(),
      clock: raw.prepare('UPDATE source SET ahead_ms = ?, ahead_at = ? WHERE id = ?'),
      live: raw.prepare('UPDATE source SET live_at = max(ifnull(live_at, 0), ?) WHERE id = ?'),
    };
  }

  /** Makes the event that a statement is, or has it wait. Returns its state. */
  settle(id: number, uuid: string, at: number, said: SaidStatement): string {
    const what = this.directory.what(said);
    if (said.activity === null) return this.end(id, 'kept', null, null);
    if (!what) return this.end(id, 'waiting', `activity ${said.activity}`.slice(0, 300), null);
    const who = this.directory.who(actorId(said.actor), what.courseId);
    if (!who) return this.end(id, 'waiting', `actor ${said.actorKey}`.slice(0, 300), null);
    // The same event may have come in a file already.
    if (this.sql.stored.get(this.context.sourceId, uuid) !== undefined) return this.end(id, 'taken', null, null);
    const event = this.writer.add({
      at: this.withinReason(at),
      ...who,
      ...what,
      actionId: this.writer.actionId(verbWord(said.verb)),
      address: null,
      externalId: uuid,
    });
    return this.end(id, 'taken', null, event);
  }

  removeEvent(id: number | null): void {
    if (id !== null) this.writer.remove(id);
  }

  flush(): void {
    const { sourceId, now } = this.context;
    this.writer.flush();
    if (this.ahead > 0) this.sql.clock.run(this.ahead, now, sourceId);
    this.sql.live.run(now, sourceId);
  }

  /** A clock that runs ahead of ours: the event happened when it came, and the source is told of. */
  private withinReason(at: number): number {
    const { now } = this.context;
    if (at <= now + CLOCK_TOLERANCE) return at;
    this.ahead = Math.max(this.ahead, at - now);
    return now;
  }

  private end(id: number, state: string, waitsFor: string | null, event: number | null): string {
    this.sql.settle.run(state, waitsFor, event, id);
    return state;
  }
}

/**
 * Stores statements of one source, all or none of them, and makes events of those whose people
 * and items are known. One that is there already and says the same changes nothing.
 * @throws StatementConflict when one is there and says something else
 */
export function storeStatements(
  raw: RawConnection,
  incoming: readonly IncomingStatement[],
  context: StoreContext,
): { stored: number; waiting: number } {
  const { sourceId, now } = context;
  const taker = new StatementTaker(raw, openDirectory(raw), context);
  const find = raw.prepare('SELECT id, uuid, at, event_id, body FROM statement WHERE source_id = ? AND uuid = ?');
  const insert = raw.prepare(
    `INSERT INTO statement (uuid, source_id, stored, at, verb, activity, actor, registration, state, body)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, 'new', ?)`,
  );
  const link = raw.prepare('INSERT OR IGNORE INTO statement_link (statement_id, what, key) VALUES (?, ?, ?)');
  const voided = raw.prepare("UPDATE statement SET state = 'voided', waits_for = NULL, event_id = NULL WHERE id = ?");
  const isVoidedBy = raw.prepare(
    "SELECT 1 FROM statement_link l JOIN statement s ON s.id = l.statement_id WHERE l.what = 'voids' AND l.key = ? AND s.source_id = ?",
  );
  let [stored, waiting] = [0, 0];
  for (const { uuid, body } of incoming) {
    const there = find.get(sourceId, uuid) as StatementRow | undefined;
    if (there) {
      if (!saysTheSame(JSON.parse(there.body), body)) throw new StatementConflict(uuid);
      continue;
    }
    const said = readStatement(body);
    const at = instantOf(String(body.timestamp));
    const { lastInsertRowid } = insert.run(
      uuid,
      sourceId,
      now,
      at,
      said.verb,
      said.activity,
      said.actorKey,
      said.registration,
      JSON.stringify(body),
    );
    const id = Number(lastInsertRowid);
    for (const key of said.agents) link.run(id, 'agent', key);
    for (const key of said.activities) link.run(id, 'activity', key);
    if (said.voids !== null) {
      link.run(id, 'voids', said.voids);
      const target = find.get(sourceId, said.voids) as StatementRow | undefined;
      // A statement that declares another void cannot be voided itself.
      if (target && readStatement(JSON.parse(target.body)).voids === null) {
        taker.removeEvent(target.event_id);
        voided.run(target.id);
      }
    }
    const isVoid = said.voids === null && isVoidedBy.get(uuid, sourceId) !== undefined;
    if (isVoid) voided.run(id);
    else if (taker.settle(id, uuid, at, said) === 'waiting') waiting += 1;
    stored += 1;
  }
  taker.flush();
  return { stored, waiting };
}

/**
 * Tries those that wait once more, from a place on: their people or items may have come.
 * Returns from where to go on; null at the end.
 */
export function settleWaiting(
  raw: RawConnection,
  { zone, now }: Omit<StoreContext, 'sourceId'>,
  after: number,
  limit: number,
): { next: number | null; taken: number } {
  const rows = raw
    .prepare(
      "SELECT id, uuid, at, source_id, event_id, body FROM statement WHERE state = 'waiting' AND id > ? ORDER BY id LIMIT ?",
    )
    .all(after, limit) as StatementRow[];
  const directory = openDirectory(raw);
  const takers = new Map<number, StatementTaker>();
  let taken = 0;
  for (const row of rows) {
    let taker = takers.get(row.source_id);
    if (!taker)
      takers.set(row.source_id, (taker = new StatementTaker(raw, directory, { sourceId: row.source_id, zone, now })));
    if (taker.settle(row.id, row.uuid, row.at, readStatement(JSON.parse(row.body))) === 'taken') taken += 1;
  }
  if (taken > 0) for (const taker of takers.values()) taker.flush();
  return { next: rows.length < limit ? null : rows.at(-1)!.id, taken };
}

/** The standard's filters. */
export interface StatementFilter {
  agent?: { key: string; related: boolean };
  activity?: { iri: string; related: boolean };
  verb?: string;
  registration?: string;
  /** Stored after this instant, and up to that one. */
  since?: number;
  until?: number;
}

export interface StatementPage {
  limit: number;
  ascending: boolean;
  /** Beyond this place. */
  from?: { stored: number; id: number };
}

export interface StoredStatement {
  id: number;
  stored: number;
  body: JsonObject;
}

const read = (rows: { id: number; stored: number; body: string }[]): StoredStatement[] =>
  rows.map((row) => ({ ...row, body: JSON.parse(row.body) }));

/** Statements of a source that match, in the order they were stored in; void ones left out. */
export async function findStatements(
  db: Db,
  sourceId: number,
  filter: StatementFilter,
  { limit, ascending, from }: StatementPage,
): Promise<StoredStatement[]> {
  const linked = (what: string, key: string) =>
    db('statement_link').where({ what, key }).whereRaw('statement_link.statement_id = statement.id');
  const order = ascending ? 'asc' : 'desc';
  const rows = await db('statement')
    .where('source_id', sourceId)
    .whereNot('state', 'voided')
    .modify((query) => {
      const { agent, activity, verb, registration, since, until } = filter;
      if (agent) {
        query.whereExists(linked('agent', agent.key));
        if (!agent.related) query.where('actor', agent.key);
      }
      if (activity) {
        query.whereExists(linked('activity', activity.iri));
        if (!activity.related) query.where('activity', activity.iri);
      }
      if (verb !== undefined) query.where({ verb });
      if (registration !== undefined) query.where({ registration });
      if (since !== undefined) query.where('stored', '>', since);
      if (until !== undefined) query.where('stored', '<=', until);
      if (from) query.whereRaw(`(stored, id) ${ascending ? '>' : '<'} (?, ?)`, [from.stored, from.id]);
    })
    .orderBy([
      { column: 'stored', order },
      { column: 'id', order },
    ])
    .limit(limit)
    .select('id', 'stored', 'body');
  return read(rows);
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

export interface Waiting {
  source: string;
  waits_for: string;
  statements: number;
}

/** What statements wait for, most first. */
export async function whatWaits(db: Db, limit: number): Promise<Waiting[]> {
  return db('statement')
    .join('source', 'source.id', 'statement.source_id')
    .where('statement.state', 'waiting')
    .groupBy('source.id', 'statement.waits_for')
    .orderBy([{ column: 'statements', order: 'desc' }, { column: 'waits_for' }])
    .limit(limit)
    .select('source.name as source', 'statement.waits_for', db.raw('count(*) AS statements'));
}

export async function anyWaiting(db: Db): Promise<boolean> {
  return (await db('statement').where('state', 'waiting').first('id')) !== undefined;
}
