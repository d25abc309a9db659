/** By what statements are found: their own people, activities, verbs, and those of what they are about. */
import { SAID_OF, readStatement, type SaidStatement } from '@/core/feed/xapi/read';
import type { RawConnection } from '@/data/db';

/** A stored statement that another has to do with. */
export interface Linked {
  id: number;
  uuid: string;
  said: SaidStatement;
}

/** A chain of statements about statements is followed this far. */
const MOST_LINKED = 100;

/** Writes the links of one source's statements inside the caller's write transaction. */
export class StatementLinks {
  private readonly keys = new Map<string, number>();
  private readonly sql;

  constructor(
    raw: RawConnection,
    private readonly sourceId: number,
  ) {
    this.sql = {
      findKey: raw.prepare('SELECT id FROM statement_key WHERE source_id = ? AND key = ?').pluck(),
      addKey: raw.prepare('INSERT INTO statement_key (source_id, key) VALUES (?, ?)'),
      link: raw.prepare('INSERT OR IGNORE INTO statement_link (what, key_id, statement_id, via) VALUES (?, ?, ?, ?)'),
      byUuid: raw.prepare('SELECT id, uuid, body FROM statement WHERE source_id = ? AND uuid = ?'),
      about: raw.prepare(
        `SELECT s.id, s.uuid, s.body FROM statement_link l JOIN statement s ON s.id = l.statement_id
         WHERE l.what = 'refers' AND l.key_id = (SELECT id FROM statement_key WHERE source_id = ? AND key = ?)`,
      ),
    };
  }

  /**
   * Links a statement that has just been stored, and by it those that are about it.
   * Returns the statement that it is about, and those that are about it, where they are stored.
   */
  add(id: number, uuid: string, said: SaidStatement): { about: Linked | null; by: Linked[] } {
    const self: Linked = { id, uuid, said };
    if (said.refersTo !== null) this.sql.link.run('refers', this.keyId(said.refersTo), id, id);
    const ahead = this.follow(self, (one) => this.targets(one));
    const behind = this.follow(self, (one) => this.referrers(one));
    for (const by of [self, ...behind]) for (const via of [self, ...ahead]) this.link(by, via);
    return { about: ahead[0] ?? null, by: behind.filter((one) => one.said.refersTo === uuid) };
  }

  /** Everything that is reached from a statement, the nearest first, without itself. */
  private follow(from: Linked, next: (one: Linked) => Linked[]): Linked[] {
    const seen = new Set([from.uuid]);
    const found: Linked[] = [];
    for (let step = next(from); step.length > 0 && found.length < MOST_LINKED;) {
      const fresh = step.filter((one) => !seen.has(one.uuid));
      fresh.forEach((one) => seen.add(one.uuid));
      found.push(...fresh);
      step = fresh.flatMap(next);
    }
    return found;
  }

  private targets({ said }: Linked): Linked[] {
    return said.refersTo === null ? [] : this.read(this.sql.byUuid.all(this.sourceId, said.refersTo));
  }

  private referrers({ uuid }: Linked): Linked[] {
    return this.read(this.sql.about.all(this.sourceId, uuid));
  }

  private read(rows: unknown[]): Linked[] {
    return (rows as { id: number; uuid: string; body: string }[]).map(({ id, uuid, body }) => ({
      id,
      uuid,
      said: readStatement(JSON.parse(body)),
    }));
  }

  private link(by: Linked, via: Linked): void {
    for (const what of SAID_OF) {
      for (const key of via.said.keys[what]) this.sql.link.run(what, this.keyId(key), by.id, via.id);
    }
  }

  private keyId(key: string): number {
    let id = this.keys.get(key);
    if (id === undefined) {
      const found = this.sql.findKey.get(this.sourceId, key) as number | undefined;
      id = found ?? Number(this.sql.addKey.run(this.sourceId, key).lastInsertRowid);
      this.keys.set(key, id);
    }
    return id;
  }
}
