import { DEFAULT_THRESHOLDS } from '@/core/sessions/suggest';
import { prepared, type RawConnection } from '../db';

/**
 * Who attended sessions that are items of the outline, and when they came: by a mark with credit, or, where there is no
 * roll, by having been seen for a tenth of it.
 */
export function attendedItems(raw: RawConnection, itemIds: readonly number[]): [learner: number, at: number][] {
  return prepared(
    raw,
    `SELECT who.learner_id, ifnull(p.first_in, s.starts_at)
     FROM session s
       JOIN (SELECT session_id, learner_id FROM attendance UNION SELECT session_id, learner_id FROM presence) AS who ON who.session_id = s.id
       LEFT JOIN attendance a ON a.session_id = s.id AND a.learner_id = who.learner_id
       LEFT JOIN mark ON mark.code = a.mark
       LEFT JOIN presence p ON p.session_id = s.id AND p.learner_id = who.learner_id
     WHERE s.item_id IN (SELECT value FROM json_each(@items)) AND s.cancelled = 0 AND s.removed_at IS NULL
       AND (ifnull(mark.credit, 0) > 0 OR (s.roll_at IS NULL AND p.ms >= @share * (s.ends_at - s.starts_at)))`,
  )
    .raw()
    .all({ items: JSON.stringify(itemIds), share: DEFAULT_THRESHOLDS.absentUnder }) as [number, number][];
}
