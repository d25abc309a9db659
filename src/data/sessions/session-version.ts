import { createHash } from 'node:crypto';
import { prepared, type RawConnection } from '../db';

/**
 * How a session's presence, marks and check-ins stand: another text whenever any of them has changed. Sealed, since a
 * browser gets it and the numbers behind it are of everybody.
 */
export function sessionVersion(raw: RawConnection, sessionId: number): string {
  const stands = prepared(
    raw,
    `SELECT (SELECT count(*) || '/' || ifnull(max(id), 0) || '/' || ifnull(sum("left" % 1000003), 0) || '/' || count("left") || '/'
         || ifnull(sum(learner_id), 0) FROM presence_row WHERE session_id = @sessionId)
       || '/' || (SELECT ifnull(max(id), 0) FROM attendance_change WHERE session_id = @sessionId)
       || '/' || (SELECT count(*) || '/' || ifnull(max(at), 0) || '/' || ifnull(sum(state = 'refused'), 0) FROM check_in WHERE session_id = @sessionId)
       || '/' || (SELECT changed_at || '/' || sequence FROM session WHERE id = @sessionId)`,
  )
    .pluck()
    .get({ sessionId }) as string;
  return createHash('sha256').update(stands).digest('base64url').slice(0, 16);
}
