/**
 * The live hub: one look at the log a second, however many watch, and each event put into words
 * once for all who see the same.
 */
import { standInId, standInName } from '@/core/hidden-names/stand-ins';
import type { LiveEvent } from '@/core/access/now';
import { withRaw, type Db } from '@/data/db';
import { eventsAfter, lastEventId, type ArrivedEvent } from '@/data/access/live';
import { sessionVersion } from '@/data/sessions/session-version';
import { eventInView, type ViewScope, type Viewer } from '@/data/scope';
import { liveCursors, type CursorSeal } from './cursor';

/** How often the log is looked at, in ms. */
const LOOK = 1000;
/** More than this at once is a file, not people at work: then watchers read the screen anew. */
const MOST_AT_ONCE = 1000;

/** Takes a chunk of a stream; the same bytes go to everybody who sees the same. */
export type Send = (chunk: Uint8Array) => void;

/** Those who watch a session, and how it stood when they were last told. */
interface SessionAudience {
  version: string;
  watchers: Set<Send>;
}

interface Audience {
  scope: ViewScope;
  watchers: Set<Send>;
}

const encoder = new TextEncoder();

/** One message of a stream, as the standard of server-sent events has it. */
export function streamMessage(event: string, data: unknown, id?: string): Uint8Array {
  const head = id === undefined ? '' : `id: ${id}\n`;
  return encoder.encode(`${head}event: ${event}\ndata: ${JSON.stringify(data)}\n\n`);
}

/** An event as a viewer reads it: by name, or by stand-in. */
function liveEvent({ viewer }: ViewScope, row: ArrivedEvent, places: CursorSeal): LiveEvent {
  const { id, at, course, item_id, item, action } = row;
  const namesHidden = viewer.standInKey === null ? null : standInName(viewer.standInKey, row.learner_id);
  const name = namesHidden ?? row;
  const learner_id = viewer.standInKey === null ? row.external_id : standInId(viewer.standInKey, row.learner_id);
  return {
    id: places.seal(id),
    at,
    source: row.source_id,
    who: `learner ${learner_id}`,
    learner_id,
    name: [name.given_name, name.family_name].filter(Boolean).join(' '),
    course,
    item_id,
    item,
    action,
  };
}

/** What two viewers must have in common to read the same. */
function audienceKey({ viewer, segment }: ViewScope): string {
  return JSON.stringify([viewerKey(viewer), segment]);
}

/** What a viewer sees, and whether by name. */
export function viewerKey({ all, courses, groups, organisations, learners, standInKey }: Viewer): string {
  return JSON.stringify([all ? 'all' : [courses, groups, organisations, learners], standInKey]);
}

export class LiveHub {
  private readonly audiences = new Map<string, Audience>();
  private readonly sessions = new Map<number, SessionAudience>();
  private timer: NodeJS.Timeout | null = null;
  private last = 0;
  private busy = false;

  constructor(
    private readonly db: Db,
    private readonly onTrouble: (error: unknown) => void = () => undefined,
  ) {}

  /** How many watch. */
  get watchers(): number {
    const all = [...this.audiences.values(), ...this.sessions.values()];
    return all.reduce((sum, { watchers }) => sum + watchers.size, 0);
  }

  /** Begins to look where nobody watched before. */
  private async begin(): Promise<void> {
    if (this.timer !== null) return;
    this.last = await withRaw(this.db, lastEventId);
    this.timer ??= setInterval(() => void this.look(), LOOK);
  }

  private endIfUnwatched(): void {
    if (this.audiences.size + this.sessions.size > 0 || this.timer === null) return;
    clearInterval(this.timer);
    this.timer = null;
  }

  /**
   * Says whenever presence, versions or check-ins of a session change, and nothing of whose; returns what ends it.
   * @param known how it stood when the page was made: what has changed since is said at once
   */
  async watchSession(sessionId: number, send: Send, known: string | null): Promise<() => void> {
    await this.begin();
    const version = await withRaw(this.db, (raw) => sessionVersion(raw, sessionId));
    const audience = this.sessions.get(sessionId) ?? { version, watchers: new Set() };
    this.sessions.set(sessionId, audience);
    audience.watchers.add(send);
    if (known !== null && known !== version) send(streamMessage('session', {}));
    return () => {
      audience.watchers.delete(send);
      if (audience.watchers.size === 0) this.sessions.delete(sessionId);
      this.endIfUnwatched();
    };
  }

  /** Sends every event in view from now on; returns what ends it. */
  async watch(scope: ViewScope, send: Send): Promise<() => void> {
    await this.begin();
    const key = audienceKey(scope);
    const audience = this.audiences.get(key) ?? { scope, watchers: new Set() };
    this.audiences.set(key, audience);
    audience.watchers.add(send);
    return () => {
      audience.watchers.delete(send);
      if (audience.watchers.size === 0) this.audiences.delete(key);
      this.endIfUnwatched();
    };
  }

  /** Events in view that a watcher missed while it was away; null when they are too many, or cannot be told. */
  async missed(scope: ViewScope, after: number): Promise<{ events: LiveEvent[]; last: string } | null> {
    // Where the newest events have left the database, their numbers are used again.
    const rows = await withRaw(this.db, (raw) =>
      after > lastEventId(raw) ? null : eventsAfter(raw, after, MOST_AT_ONCE + 1),
    );
    if (rows === null || rows.length > MOST_AT_ONCE) return null;
    const seen = rows.filter((row) => eventInView(scope, row));
    const places = await liveCursors(this.db);
    return {
      events: seen.map((row) => liveEvent(scope, row, places)),
      last: places.seal(rows.at(-1)?.id ?? after),
    };
  }

  /** Looks for new events once and sends them to those who see them. */
  async look(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    try {
      const rows = await withRaw(this.db, (raw) => {
        const last = lastEventId(raw);
        if (last - this.last > MOST_AT_ONCE) {
          this.last = last;
          return null;
        }
        const found = last === this.last ? [] : eventsAfter(raw, this.last, MOST_AT_ONCE);
        this.last = last;
        return found;
      });
      if (rows === null || rows.length > 0) this.tell(rows, await liveCursors(this.db));
      if (this.sessions.size > 0) await this.tellOfSessions();
    } catch (error) {
      this.onTrouble(error);
    } finally {
      this.busy = false;
    }
  }

  private async tellOfSessions(): Promise<void> {
    const versions = await withRaw(this.db, (raw) =>
      [...this.sessions.keys()].map((id) => [id, sessionVersion(raw, id)] as const),
    );
    for (const [id, version] of versions) {
      const audience = this.sessions.get(id);
      if (!audience || audience.version === version) continue;
      audience.version = version;
      const chunk = streamMessage('session', {});
      for (const send of audience.watchers) send(chunk);
    }
  }

  private tell(rows: ArrivedEvent[] | null, places: CursorSeal): void {
    const last = places.seal(this.last);
    for (const { scope, watchers } of this.audiences.values()) {
      const seen = rows?.filter((row) => eventInView(scope, row));
      if (seen?.length === 0) continue;
      const chunk = seen
        ? streamMessage(
            'events',
            seen.map((row) => liveEvent(scope, row, places)),
            last,
          )
        : streamMessage('anew', {}, last);
      for (const send of watchers) send(chunk);
    }
  }
}

const KEY = Symbol.for('lee-shore.live-hub');
type Holder = { [KEY]?: LiveHub };

/** The process's own hub. */
export function liveHub(db: Db, onTrouble: (error: unknown) => void): LiveHub {
  return ((globalThis as Holder)[KEY] ??= new LiveHub(db, onTrouble));
}
