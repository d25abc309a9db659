/** Adding events to the access log, with every count that is kept beside it. */
import { isKnownAction, kindOfAction } from '@/core/access/kinds';
import { HOUR, dayOf } from '@/core/time/zone';
import type { RawConnection } from '../db';
import { SnapshotAccesses, toldTwice } from './snapshot-accesses';
import { openTouch } from './touched';

export interface NewEvent {
  at: number;
  /** Null for a staff event. */
  learnerId: number | null;
  staffId: number | null;
  courseId: number;
  itemId: number | null;
  actionId: number;
  address: string | null;
  externalId: string | null;
}

/** Offsets change on quarter hours at the finest, so a day does too. */
const QUARTER = HOUR / 4;
/** More of each than there are, so that sums of them are keys of their own. */
const DAYS = 100_000;
const ACTIONS = 100_000;

/**
 * Writes events of one source inside the caller's write transactions. Call `flush` before each
 * commit: it stores the counts and what has to be derived anew.
 */
export class EventWriter {
  readonly actionId: (word: string) => number;
  private readonly touched = new Map<number, [number, number]>();
  private readonly seenCourses = new Set<number>();
  private readonly ofAction = new Map<number, number>();
  private readonly ofHour = new Map<number, number>();
  private readonly ofCourse = new Map<number, Map<number, number>>();
  private lastEvent = 0;
  private quarter = Number.NaN;
  private day = 0;
  private readonly touch;
  private readonly snapshots: SnapshotAccesses;
  private readonly sql;

  constructor(
    raw: RawConnection,
    private readonly sourceId: number,
    private readonly zone: string,
  ) {
    const addAction = raw.prepare('INSERT INTO action (word, kind, settled) VALUES (?, ?, ?)');
    const actions = new Map(raw.prepare('SELECT word, id FROM action').raw().all() as [string, number][]);
    this.actionId = (word) => {
      let id = actions.get(word);
      if (id === undefined) {
        id = Number(addAction.run(word, kindOfAction(word), isKnownAction(word) ? 1 : 0).lastInsertRowid);
        actions.set(word, id);
      }
      return id;
    };
    this.touch = openTouch(raw);
    this.snapshots = new SnapshotAccesses(raw);
    this.sql = {
      insert: raw.prepare(
        `INSERT INTO event (at, learner_id, staff_id, course_id, item_id, action_id, address, source_id, external_id)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      ),
      countAction: raw.prepare('UPDATE action SET events = events + ? WHERE id = ?'),
      countCourse: raw.prepare(
        `INSERT INTO course_day (course_id, day, action_id, staff, events) VALUES (?, ?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET events = events + excluded.events`,
      ),
      countHour: raw.prepare(
        `INSERT INTO source_hour (source_id, hour, events) VALUES (?, ?, ?)
         ON CONFLICT DO UPDATE SET events = events + excluded.events`,
      ),
      feeds: raw.prepare('INSERT OR IGNORE INTO source_course (source_id, course_id) VALUES (?, ?)'),
      lastEvent: raw.prepare('UPDATE source SET last_event_at = max(ifnull(last_event_at, 0), ?) WHERE id = ?'),
      find: raw.prepare('SELECT at, learner_id, course_id, action_id FROM event WHERE id = ?'),
      remove: raw.prepare('DELETE FROM event WHERE id = ?'),
    };
  }

  /** Adds one event; returns its id. */
  add(event: NewEvent): number {
    const { at, learnerId, courseId } = event;
    if (learnerId !== null) for (const id of this.snapshots.replacedBy(learnerId, courseId, at)) this.remove(id, false);
    const id = this.insert(event);
    this.count(event, 1);
    if (at > this.lastEvent) this.lastEvent = at;
    return id;
  }

  /** Adds an access that a list of participants tells of: it says nothing of the rhythm in which its source logs. */
  addSnapshot(event: NewEvent): number {
    const id = this.insert(event);
    this.count(event, 1, false);
    return id;
  }

  private insert({ at, learnerId, staffId, courseId, itemId, actionId, address, externalId }: NewEvent): number {
    const { lastInsertRowid } = this.sql.insert.run(
      at,
      learnerId,
      staffId,
      courseId,
      itemId,
      actionId,
      address,
      this.sourceId,
      externalId,
    );
    if (!this.seenCourses.has(courseId)) {
      this.seenCourses.add(courseId);
      this.sql.feeds.run(this.sourceId, courseId);
    }
    return Number(lastInsertRowid);
  }

  /** Takes an event back that its source declared void. @param logged false for one that was never logged */
  remove(id: number, logged = true): void {
    const row = this.sql.find.get(id) as
      { at: number; learner_id: number | null; course_id: number; action_id: number } | undefined;
    if (!row) return;
    this.sql.remove.run(id);
    this.count({ at: row.at, learnerId: row.learner_id, courseId: row.course_id, actionId: row.action_id }, -1, logged);
  }

  /** Stores what was counted since the last time. */
  flush(): void {
    // Noted anew each time: what was noted before may have been derived since, by whatever process.
    for (const [learnerId, [from, to]] of this.touched) this.touch(learnerId, from, to);
    this.touched.clear();
    for (const [actionId, count] of this.ofAction) this.sql.countAction.run(count, actionId);
    this.ofAction.clear();
    for (const [courseId, counts] of this.ofCourse) {
      for (const [key, count] of counts) {
        const [day, rest] = [Math.floor(key / (2 * ACTIONS)), key % (2 * ACTIONS)];
        this.sql.countCourse.run(courseId, day - DAYS, rest >> 1, rest & 1, count);
      }
      counts.clear();
    }
    for (const [hour, count] of this.ofHour) this.sql.countHour.run(this.sourceId, hour, count);
    this.ofHour.clear();
    if (this.lastEvent > 0) this.sql.lastEvent.run(this.lastEvent, this.sourceId);
  }

  private count(event: Pick<NewEvent, 'at' | 'learnerId' | 'courseId' | 'actionId'>, by: number, logged = true) {
    const { at, learnerId, courseId, actionId } = event;
    const quarter = Math.floor(at / QUARTER);
    if (quarter !== this.quarter) {
      this.quarter = quarter;
      this.day = dayOf(at, this.zone);
    }
    add(this.ofAction, actionId, by);
    if (logged) add(this.ofHour, Math.floor(at / HOUR), by);
    let counts = this.ofCourse.get(courseId);
    if (!counts) this.ofCourse.set(courseId, (counts = new Map()));
    add(counts, (this.day + DAYS) * 2 * ACTIONS + actionId * 2 + (learnerId === null ? 1 : 0), by);
    if (learnerId !== null) widen(this.touched, learnerId, at);
  }
}

function add(counts: Map<number, number>, key: number, by: number) {
  counts.set(key, (counts.get(key) ?? 0) + by);
}

function widen(ranges: Map<number, [number, number]>, key: number, at: number) {
  const range = ranges.get(key);
  if (!range) ranges.set(key, [at, at]);
  else if (at < range[0]) range[0] = at;
  else if (at > range[1]) range[1] = at;
}

/** Takes back what lists of participants tell of and a log does as well: records or courses have been made one. */
export function removeToldTwice(raw: RawConnection, zone: string): void {
  const events = toldTwice(raw);
  if (events.length === 0) return;
  // They were never logged, so that no source's counts change.
  const writer = new EventWriter(raw, 0, zone);
  for (const id of events) writer.remove(id, false);
  writer.flush();
}
