/** Events as they come in, with what their scope is told by. */
import type { RawConnection } from '../db';
import type { EventScope } from '../scope';

/** An event just stored, before anybody's names are put to it. */
export interface ArrivedEvent extends EventScope {
  id: number;
  at: number;
  source_id: number;
  external_id: string;
  given_name: string;
  family_name: string;
  course: string;
  item_id: string | null;
  item: string | null;
  action: string;
}

/** The id of the last event stored; 0 before any. */
export function lastEventId(raw: RawConnection): number {
  return raw.prepare('SELECT ifnull(max(id), 0) FROM event').pluck().get() as number;
}

/** Learners' events stored after one, in the order they were stored in, with where each belongs. */
export function eventsAfter(raw: RawConnection, id: number, limit: number): ArrivedEvent[] {
  return raw
    .prepare(
      `SELECT event.id, event.at, event.source_id, event.learner_id, event.course_id, enrolment.group_id, learner.organisation_id,
         enrolment.id IS NOT NULL AS is_enrolled, learner.external_id, learner.given_name, learner.family_name,
         course.code AS course, item.external_id AS item_id, item.title AS item, action.word AS action
       FROM (SELECT * FROM event WHERE id > ? ORDER BY id LIMIT ?) AS event
         JOIN learner ON learner.id = event.learner_id
         JOIN course ON course.id = event.course_id
         JOIN action ON action.id = event.action_id
         LEFT JOIN item ON item.id = event.item_id
         LEFT JOIN enrolment ON enrolment.learner_id = event.learner_id AND enrolment.course_id = event.course_id
       ORDER BY event.id`,
    )
    .all(id, limit) as ArrivedEvent[];
}
