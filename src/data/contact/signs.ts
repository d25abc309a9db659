/** Signs of life: what shows that somebody came back. One meaning for everything that asks whether they did. */
import type { Knex } from 'knex';
import type { Db } from '../db';
import { closedTo } from '../privacy/retention';
import { courseRowInScope, type Viewer } from '../scope';

/** Each sort of sign, as rows of `learner_id, course_id, at`: an event of the log, a hand-in, a session attended. */
const SOURCES = (db: Db): Knex.QueryBuilder[] => [
  db('event').whereNotNull('learner_id').select('learner_id', 'course_id', 'at'),
  db('attempt')
    .join('item', 'item.id', 'attempt.item_id')
    .whereNotNull('submitted_at')
    .whereNull('dismissed_at')
    .select('attempt.learner_id', 'item.course_id', 'attempt.submitted_at as at'),
  db('session_outcome').where('credit', '>', 0).select('learner_id', 'course_id', 'at'),
  // Of courses whose events have left the log, the first and the last of each day.
  ...(['first', 'last'] as const).map((at) => daysWithoutLog(db).select('learner_id', 'course_id', `${at} as at`)),
];

/** Days there in courses whose events have left the log. */
function daysWithoutLog(db: Db): Knex.QueryBuilder {
  return db('learner_day')
    .whereNotNull('last')
    .whereRaw(`learner_day.day <= ${closedTo('to_day', 'learner_day.course_id')}`);
}

/**
 * The nearest sign of a learner on one side of an instant, in the courses in the viewer's scope: a query of one value.
 *
 * @param learner SQL of the learner's number, and `at` of the instant, of the query around it
 * @param side the last at or before it, or the first after it
 */
export function nearestSign(
  db: Db,
  viewer: Viewer,
  { learner, at }: { learner: string; at: string },
  side: 'before' | 'after',
): Knex.QueryBuilder {
  const [first, ...rest] = SOURCES(db).map((source) =>
    db
      .from(
        db
          .from(source.as('sign'))
          .whereRaw(`sign.learner_id = ${learner} AND sign.at ${side === 'before' ? '<=' : '>'} ${at}`)
          .where(courseRowInScope(db, viewer, 'sign'))
          .orderBy('sign.at', side === 'before' ? 'desc' : 'asc')
          .limit(1)
          .select('sign.at')
          .as('nearest'),
      )
      .select('at'),
  );
  return db.from(first.unionAll(rest).as('signs')).select(db.raw(side === 'before' ? 'max(at)' : 'min(at)'));
}

/** The first event of a learner after an instant, in the viewer's scope; of a closed log, by its days. A query of one value. */
export function firstEventAfter(
  db: Db,
  viewer: Viewer,
  { learner, at }: { learner: string; at: string },
): Knex.QueryBuilder {
  const logged = db('event')
    .whereRaw(`event.learner_id = ${learner} AND event.at > ${at}`)
    .where(courseRowInScope(db, viewer, 'event'))
    .orderBy('event.at')
    .limit(1)
    .select('event.at');
  const closed = daysWithoutLog(db)
    .whereRaw(`learner_day.learner_id = ${learner} AND learner_day.last > ${at}`)
    .where(courseRowInScope(db, viewer, 'learner_day'))
    .select(db.raw(`CASE WHEN first > ${at} THEN first ELSE last END AS at`));
  return db.from(db.from(logged.as('logged')).select('at').unionAll([closed]).as('after')).min('at');
}
