import type { RawConnection } from '../db';

/**
 * Says which item of the outline each session is: the one that its file names, else one of kind session with the
 * session's own id, else the only one of that kind with its title. Whichever of the two files comes first.
 */
export function linkSessionItems(raw: RawConnection, courseId: number): void {
  raw
    .prepare(
      `UPDATE session SET item_id = (
         SELECT item.id FROM item WHERE item.course_id = session.course_id AND item.kind = 'session' AND (
           item.external_id = ifnull(session.item_ref, session.external_id)
           OR (session.item_ref IS NULL AND item.title = session.title AND 1 = (
             SELECT count(*) FROM item same WHERE same.course_id = session.course_id AND same.kind = 'session'
               AND same.title = session.title)))
         ORDER BY item.external_id = ifnull(session.item_ref, session.external_id) DESC LIMIT 1)
       WHERE course_id = ?`,
    )
    .run(courseId);
}
