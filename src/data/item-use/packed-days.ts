/** The packed days of courses: what item use and who did are answered from. Derived, beside the tables of days. */
import { DAY_SPAN } from '@/core/access/derive';
import { joinEntries, keepLearners, pack, type ItemActivity, type PackedDay } from '@/core/item-use/packed-days';
import { startOfDay } from '@/core/time/zone';
import type { RawConnection } from '../db';
import { closedTo } from '../privacy/retention';

/** Packs what several learners did, to be kept on the stage. */
export class Packer {
  private readonly days = new Map<number, { courseId: number; day: number; startsAt: number; numbers: number[] }>();

  constructor(private readonly zone: string) {}

  add(learnerId: number, deeds: readonly ItemActivity[]): void {
    for (const one of deeds) {
      const key = one.courseId * DAY_SPAN + one.day;
      let day = this.days.get(key);
      if (!day) {
        const startsAt = startOfDay(one.day, this.zone);
        this.days.set(key, (day = { courseId: one.courseId, day: one.day, startsAt, numbers: [] }));
      }
      pack(day.numbers, learnerId, one, day.startsAt);
    }
  }

  *packed(): Generator<{ courseId: number; day: number; startsAt: number; entries: Int32Array }> {
    for (const { numbers, ...day } of this.days.values()) yield { ...day, entries: Int32Array.from(numbers) };
  }
}

function bytesOf(entries: Int32Array): Buffer {
  return Buffer.from(entries.buffer, entries.byteOffset, entries.byteLength);
}

function entriesOf(bytes: Buffer): Int32Array {
  // Bytes may begin anywhere within what was read, whole numbers only at every fourth.
  if (bytes.byteOffset % 4 === 0) return new Int32Array(bytes.buffer, bytes.byteOffset, bytes.byteLength / 4);
  return new Int32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
}

export function openPackedStage(raw: RawConnection): void {
  raw.exec(`DROP TABLE IF EXISTS temp.stage_packed; CREATE TABLE temp.stage_packed (
    course_id INTEGER, day INTEGER, starts_at INTEGER, again INTEGER, entries BLOB)`);
}

export function closePackedStage(raw: RawConnection): void {
  raw.exec('DROP TABLE IF EXISTS temp.stage_packed');
}

/** @param again whether these learners were on the stage before, and what was packed of them then is void */
export function stagePacked(raw: RawConnection, packer: Packer, again: boolean): void {
  const insert = raw.prepare('INSERT INTO temp.stage_packed VALUES (?, ?, ?, ?, ?)');
  for (const { courseId, day, startsAt, entries } of packer.packed()) {
    insert.run(courseId, day, startsAt, again ? 1 : 0, bytesOf(entries));
  }
}

/** Days of courses that staged learners have now or had before; asked before either is changed. */
export function stagedDays(raw: RawConnection): { courseId: number; day: number }[] {
  return raw
    .prepare(
      `SELECT d.course_id AS courseId, d.day FROM temp.stage_learner AS s CROSS JOIN main.learner_day AS d
         ON d.learner_id = s.learner_id AND d.day >= s.first_day AND d.day < s.end_day
         WHERE d.day > ${closedTo('to_day', 'd.course_id')}
       UNION SELECT course_id, day FROM temp.stage_packed`,
    )
    .all() as { courseId: number; day: number }[];
}

/**
 * Stores packed days: what staged learners had there goes, what they have now comes.
 * @param outdated those whose first entries on the stage are void: staged twice, of whom the last count, or not wanted
 */
export function storePacked(
  raw: RawConnection,
  days: readonly { courseId: number; day: number }[],
  outdated: ReadonlySet<number>,
): void {
  const touched = new Map(
    (raw.prepare('SELECT learner_id, first_day, end_day FROM temp.stage_learner').raw().all() as number[][]).map(
      ([learnerId, first, end]) => [learnerId, [first, end] as const],
    ),
  );
  raw.exec('CREATE INDEX IF NOT EXISTS temp.stage_packed_day ON stage_packed (course_id, day)');
  const stored = raw.prepare('SELECT entries FROM packed_day WHERE course_id = ? AND day = ?').pluck();
  const staged = raw.prepare('SELECT starts_at, again, entries FROM temp.stage_packed WHERE course_id = ? AND day = ?');
  const drop = raw.prepare('DELETE FROM packed_day WHERE course_id = ? AND day = ?');
  const store = raw.prepare(
    `INSERT INTO packed_day (course_id, day, starts_at, entries) VALUES (?, ?, ?, ?)
     ON CONFLICT (course_id, day) DO UPDATE SET entries = excluded.entries`,
  );
  const startsAt = raw.prepare('SELECT starts_at FROM packed_day WHERE course_id = ? AND day = ?').pluck();
  for (const { courseId, day } of days) {
    const before = stored.get(courseId, day) as Buffer | undefined;
    const rows = staged.all(courseId, day) as { starts_at: number; again: number; entries: Buffer }[];
    const isTouched = (learnerId: number) => {
      const span = touched.get(learnerId);
      return span !== undefined && day >= span[0] && day < span[1];
    };
    const parts = before ? [keepLearners(entriesOf(before), (learnerId) => !isTouched(learnerId))] : [];
    for (const row of rows) {
      const entries = entriesOf(row.entries);
      parts.push(row.again || outdated.size === 0 ? entries : keepLearners(entries, (id) => !outdated.has(id)));
    }
    const all = joinEntries(parts);
    if (all.length === 0) drop.run(courseId, day);
    else store.run(courseId, day, rows[0]?.starts_at ?? startsAt.get(courseId, day), bytesOf(all));
  }
}

/** The packed days of a course, from one day to another, both included. */
export function* packedDays(
  raw: RawConnection,
  courseId: number,
  { from = -1_000_000, to = 1_000_000 }: { from?: number; to?: number } = {},
): Generator<PackedDay> {
  const rows = raw
    .prepare(
      `SELECT day, starts_at, entries FROM packed_day WHERE course_id = ? AND day >= ? AND day <= ? ORDER BY day`,
    )
    .iterate(courseId, from, to) as IterableIterator<{ day: number; starts_at: number; entries: Buffer }>;
  for (const { day, starts_at: startsAt, entries } of rows) yield { day, startsAt, entries: entriesOf(entries) };
}
