/** Whom somebody tried to reach, and what came of it. */
import type { Knex } from 'knex';
import type { Tried } from '@/core/drift/order';
import { dayOf, startOfDay } from '@/core/time/zone';
import { announcements } from '../contact/announcements';
import type { Db } from '../db';
import { courseRowInScope } from '../scope';
import type { DriftView } from '../view';

interface TriedRow {
  learner_id: number;
  at: number;
  answered: number;
  due_day: number | null;
  back_day: number | null;
  attended_day: number | null;
}

/**
 * Attempts to reach learners between two instants, both included: calls, and messages to them. A message that did not
 * arrive is none, one to somebody beside them is none, and an announcement is about nobody.
 *
 * @param staffId whose they are; everybody's where it is left out
 */
function attemptsBetween(db: Db, from: number, until: number, staffId?: number): Knex.QueryBuilder {
  const ofPerson = (query: Knex.QueryBuilder) => {
    if (staffId !== undefined) query.where('staff_id', staffId);
  };
  const messages: Knex.QueryBuilder = db('message')
    .whereNotIn('state', ['failed', 'bounced'])
    .where('receiver', 'learner')
    .whereBetween('created_at', [from, until])
    .whereNotIn('draft_id', announcements(db).whereBetween('message.created_at', [from, until]))
    .modify(ofPerson)
    .select('learner_id', 'created_at as at');
  return messages.unionAll([db('call').whereBetween('at', [from, until]).modify(ofPerson).select('learner_id', 'at')]);
}

/** Learners whom a member of staff tried to reach between two instants, both included. */
export async function triedBy(db: Db, staffId: number, from: number, until: number): Promise<number[]> {
  return db
    .from(attemptsBetween(db, from, until, staffId).as('a'))
    .distinct()
    .pluck('a.learner_id');
}

/** The last attempt to reach each learner within some days before the end of a day, and what was known of it by then. */
export async function triedWithin(
  db: Db,
  view: DriftView,
  { days, day, zone }: { days: number; day: number; zone: string },
): Promise<Map<number, Tried>> {
  const from = startOfDay(day - days, zone);
  const until = Math.min(view.now, startOfDay(day + 1, zone) - 1);
  const attempts = attemptsBetween(db, from, until);
  const rows: TriedRow[] = await db
    .with('tried', db.from(attempts.as('a')).groupBy('learner_id').select('learner_id', db.raw('max(at) AS at')))
    .from('tried')
    .select(
      'tried.learner_id',
      'tried.at',
      db('learner_answer as r')
        .whereRaw('r.learner_id = tried.learner_id')
        .whereRaw('r.received_at > tried.at AND r.received_at <= ?', [until])
        .select(db.raw('count(*)'))
        .as('answered'),
      db('follow_up as f')
        .whereRaw('f.learner_id = tried.learner_id')
        .where('f.due_day', '<=', day)
        .where('f.created_at', '<=', until)
        .where((open) => open.whereNull('f.closed_at').orWhere('f.closed_at', '>', until))
        .max('f.due_day')
        .as('due_day'),
      db('learner_day as d')
        .whereRaw('d.learner_id = tried.learner_id AND d.last > tried.at')
        .where('d.day', '<=', day)
        .where(courseRowInScope(db, view.viewer, 'd'))
        .min('d.day')
        .as('back_day'),
      db('session_outcome as o')
        .whereRaw('o.learner_id = tried.learner_id AND o.at > tried.at AND o.credit > 0')
        .where('o.day', '<=', day)
        .where(courseRowInScope(db, view.viewer, 'o'))
        .min('o.day')
        .as('attended_day'),
    );
  return new Map(
    rows.map(({ learner_id, at, answered, due_day, back_day, attended_day }) => [
      learner_id,
      {
        answered: answered > 0,
        // One that was due already when they were tried is what it was tried for.
        isDue: due_day !== null && due_day > dayOf(at, zone),
        backDay:
          back_day === null || attended_day === null ? (back_day ?? attended_day) : Math.min(back_day, attended_day),
      },
    ]),
  );
}
