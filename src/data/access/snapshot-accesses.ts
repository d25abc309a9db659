/**
 * Accesses that only a platform's list of participants has told of. A log that tells of the same one later takes its place: the
 * same minute is the same access.
 */
import { MINUTE } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';

interface SnapshotAccess {
  id: number;
  learner_id: number;
  course_id: number;
  last_access: number;
  exact_to: number;
  event_id: number;
}

const minuteOf = (at: number) => at - (at % MINUTE);

/**
 * From when until when an access may have been that a list dates so.
 *
 * @param exactTo how exact it is, in ms: an age in whole minutes has been rounded down by up to one
 */
export function windowOf(at: number, exactTo: number): [from: number, until: number] {
  return [minuteOf(at) - exactTo, minuteOf(at) + MINUTE];
}

/** Those that no log has told of yet, read once. */
export class SnapshotAccesses {
  private readonly ofLearner = new Map<number, SnapshotAccess[]>();

  constructor(private readonly raw: RawConnection) {
    const rows = raw
      .prepare(
        'SELECT id, learner_id, course_id, last_access, exact_to, event_id FROM platform_snapshot WHERE event_id IS NOT NULL',
      )
      .all() as SnapshotAccess[];
    for (const row of rows) {
      const known = this.ofLearner.get(row.learner_id);
      if (known) known.push(row);
      else this.ofLearner.set(row.learner_id, [row]);
    }
  }

  /** Are there any? Most installations have none, and a log has a million rows. */
  get isEmpty(): boolean {
    return this.ofLearner.size === 0;
  }

  /** The events that something a log tells of takes the place of. */
  replacedBy(learnerId: number, courseId: number, at: number): number[] {
    const known = this.ofLearner.get(learnerId);
    if (known === undefined) return [];
    const replaced = known.filter((one) => {
      const [from, until] = windowOf(one.last_access, one.exact_to);
      return one.course_id === courseId && at >= from && at < until;
    });
    if (replaced.length === 0) return [];
    this.ofLearner.set(
      learnerId,
      known.filter((one) => !replaced.includes(one)),
    );
    for (const { event_id } of replaced)
      prepared(this.raw, 'UPDATE platform_snapshot SET event_id = NULL WHERE event_id = ?').run(event_id);
    return [...new Set(replaced.map(({ event_id }) => event_id))];
  }
}

/**
 * Accesses that a list tells of and that something else tells of as well, once records or courses were made one: the events
 * that are to be taken back. None of them stands for a snapshot any more.
 */
export function toldTwice(raw: RawConnection): number[] {
  const rows = raw
    .prepare(
      'SELECT id, learner_id, course_id, last_access, exact_to, event_id FROM platform_snapshot WHERE event_id IS NOT NULL ORDER BY id',
    )
    .all() as SnapshotAccess[];
  const other = prepared(
    raw,
    'SELECT id FROM event WHERE learner_id = ? AND course_id = ? AND at >= ? AND at < ? AND id <> ?',
  ).pluck();
  const twice: number[] = [];
  for (const { learner_id, course_id, last_access, exact_to, event_id } of rows) {
    const [from, until] = windowOf(last_access, exact_to);
    const isTwice = other.all(learner_id, course_id, from, until, event_id).some((id) => !twice.includes(id as number));
    if (!isTwice) continue;
    prepared(raw, 'UPDATE platform_snapshot SET event_id = NULL WHERE event_id = ?').run(event_id);
    twice.push(event_id);
  }
  return twice;
}
