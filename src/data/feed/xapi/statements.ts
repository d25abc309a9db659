/** Statements as they came, and the events made of them. */
import { EARLIEST } from '@/core/imports/validators';
import { GRADED } from '@/core/feed/caliper/translate';
import { actorId, readStatement, saysTheSame, verbWord, type SaidStatement } from '@/core/feed/xapi/read';
import { instantOf, type JsonObject } from '@/core/feed/xapi/values';
import type { Db, RawConnection } from '@/data/db';
import { EventWriter } from '@/data/access/event-writer';
import { earliestByCourse } from '@/data/access/actors';
import { CLOCK_TOLERANCE } from '@/data/access/take-access-log';
import { closedLogs } from '@/data/privacy/retention';
import { readResult } from '@/core/feed/xapi/result';
import { ResultImporter } from './results';
import { StatementLinks } from './links';
import { openDirectory, type Directory } from './who-and-what';

/** A statement on its way in: complete but for when it was stored. */
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
  body: string;
}

/** Takes statements of one source inside the caller's write transaction. */
class StatementImporter {
  private readonly writer: EventWriter;
  private readonly results: ResultImporter;
  private readonly earliest: ReadonlyMap<number, number>;
  private readonly closed: ReadonlyMap<number, number>;
  private readonly sql;
  private ahead = 0;

  constructor(
    raw: RawConnection,
    private readonly directory: Directory,
    private readonly context: StoreContext,
  ) {
    this.writer = new EventWriter(raw, context.sourceId, context.zone);
    this.results = new ResultImporter(raw, context);
    this.earliest = earliestByCourse(raw, context.zone);
    this.closed = closedLogs(raw);
    this.sql = {
      settle: raw.prepare('UPDATE statement SET state = ?, waits_for = ?, event_id = ? WHERE id = ?'),
      stored: raw.prepare('SELECT 1 FROM event WHERE source_id = ? AND external_id = ?').pluck(),
      clock: raw.prepare('UPDATE source SET ahead_ms = ?, ahead_at = ? WHERE id = ?'),
      live: raw.prepare('UPDATE source SET live_at = max(ifnull(live_at, 0), ?) WHERE id = ?'),
    };
  }

  /** Makes the event that a statement is, or has it wait. Returns its state. */
  settle(id: number, uuid: string, at: number, said: SaidStatement, body: JsonObject): string {
    const what = this.directory.what(said);
    if (said.activity === null) return this.end(id, 'kept', null, null);
    if (!what) return this.end(id, 'waiting', `activity ${said.activity}`.slice(0, 300), null);
    const who = this.directory.who(actorId(said.actor), what.courseId);
    if (!who) return this.end(id, 'waiting', `actor ${said.actorKey}`.slice(0, 300), null);
    const earliest = this.earliest.get(what.courseId) ?? EARLIEST;
    if (at < earliest) return this.end(id, 'kept', 'a time more than two years before the course begins', null);
    if (at < (this.closed.get(what.courseId) ?? -Infinity))
      return this.end(id, 'kept', 'days of a course whose log is closed', null);
    if (who.learnerId !== null && what.itemId !== null)
      this.results.take({ id, uuid, at: this.withinReason(at), learnerId: who.learnerId, ...what }, readResult(body));
    // A grade tells of its result alone: whoever it is of was not there for it.
    if (said.verb === GRADED) return this.end(id, 'taken', null, null);
    // The same event may have come in a file already.
    if (this.sql.stored.get(this.context.sourceId, uuid) !== undefined) return this.end(id, 'taken', null, null);
    const event = this.writer.add({
      at: this.withinReason(at),
      ...who,
      courseId: what.courseId,
      itemId: what.itemId,
      actionId: this.writer.actionId(verbWord(said.verb)),
      address: null,
      externalId: uuid,
    });
    return this.end(id, 'taken', null, event);
  }

  /** Takes away what a statement that was voided had brought. */
  remove(statementId: number, event: number | null): void {
    if (event !== null) this.writer.remove(event);
    this.results.remove(statementId);
  }

  flush(): void {
    const { sourceId, now } = this.context;
    this.writer.flush();
    this.results.flush();
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
 * @param keepsFirst one that is there and says something else stays as it is, where the standard has no word for that
 * @throws StatementConflict when one is there and says something else
 */
export function storeStatements(
  raw: RawConnection,
  incoming: readonly IncomingStatement[],
  context: StoreContext,
  keepsFirst = false,
): { stored: number; waiting: number } {
  const { sourceId, now } = context;
  const importer = new StatementImporter(raw, openDirectory(raw), context);
  const find = raw.prepare('SELECT body FROM statement WHERE source_id = ? AND uuid = ?').pluck();
  const eventOf = raw.prepare('SELECT event_id FROM statement WHERE id = ?').pluck();
  const insert = raw.prepare(
    `INSERT INTO statement (uuid, source_id, stored, at, state, body) VALUES (?, ?, ?, ?, 'new', ?)`,
  );
  const voided = raw.prepare("UPDATE statement SET state = 'voided', waits_for = NULL, event_id = NULL WHERE id = ?");
  const last = raw.prepare('SELECT max(stored) FROM statement WHERE source_id = ?').pluck().get(sourceId);
  // Never before one that is there: a page goes on where the last one ended, whatever the clock does.
  const time = Math.max(now, (last as number | null) ?? 0);
  const links = new StatementLinks(raw, sourceId);
  let [stored, waiting] = [0, 0];
  for (const { uuid, body: sent } of incoming) {
    const there = find.get(sourceId, uuid) as string | undefined;
    if (there !== undefined) {
      if (!keepsFirst && !saysTheSame(JSON.parse(there), sent)) throw new StatementConflict(uuid);
      continue;
    }
    const iso = new Date(time).toISOString();
    const body = { ...sent, timestamp: sent.timestamp ?? iso, stored: iso };
    const said = readStatement(body);
    const at = instantOf(String(body.timestamp));
    const id = Number(insert.run(uuid, sourceId, time, at, JSON.stringify(body)).lastInsertRowid);
    const { about, by } = links.add(id, uuid, said);
    // A statement that declares another void cannot be voided itself.
    if (said.isVoiding && about && !about.said.isVoiding) {
      importer.remove(about.id, eventOf.get(about.id) as number | null);
      voided.run(about.id);
    }
    if (!said.isVoiding && by.some((one) => one.said.isVoiding)) voided.run(id);
    else if (importer.settle(id, uuid, at, said, body) === 'waiting') waiting += 1;
    stored += 1;
  }
  importer.flush();
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
      "SELECT id, uuid, at, source_id, body FROM statement WHERE state = 'waiting' AND id > ? ORDER BY id LIMIT ?",
    )
    .all(after, limit) as StatementRow[];
  const directory = openDirectory(raw);
  const importers = new Map<number, StatementImporter>();
  let taken = 0;
  for (const row of rows) {
    let importer = importers.get(row.source_id);
    if (!importer)
      importers.set(
        row.source_id,
        (importer = new StatementImporter(raw, directory, { sourceId: row.source_id, zone, now })),
      );
    const body = JSON.parse(row.body) as JsonObject;
    if (importer.settle(row.id, row.uuid, row.at, readStatement(body), body) === 'taken') taken += 1;
  }
  if (taken > 0) for (const importer of importers.values()) importer.flush();
  return { next: rows.length < limit ? null : rows.at(-1)!.id, taken };
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
