/**
 * Sessions that a register or a meeting's list made before any timetable told of them: the timetable's own takes over what is
 * known of those it is for, so that nobody is there, or missing, twice.
 */
import { HOUR } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';

/**
 * How far apart a meeting and its session may have begun: less than to the next session of a course that has two in a row. A
 * session of a register's day alone is all day long.
 */
const NEAR = HOUR / 2;
const ALL_DAY = 23 * HOUR;

/** A session that a timetable has told of. */
interface ToldSession {
  id: number;
  course_id: number;
  group_id: number | null;
  day: number;
  starts_at: number;
  cancelled: number;
}

/** Of whom a session of a group is: those in it, and those in none. */
const THEIRS = `(@groupId IS NULL OR learner_id IN (SELECT learner_id FROM enrolment
  WHERE course_id = @courseId AND (group_id = @groupId OR group_id IS NULL)))`;

const MOVES = ['attendance', 'attendance_change', 'check_in', 'presence_row'].map(
  (table) =>
    `UPDATE OR IGNORE ${table} SET session_id = @id WHERE session_id = @made
       AND ${table === 'presence_row' ? `(${THEIRS} OR (learner_id IS NULL AND @groupId IS NULL))` : THEIRS}`,
);

/** Takes over what made sessions of its day and course hold. Returns the made ones that it took from. */
export function adoptMade(raw: RawConnection, session: ToldSession, now: number): number[] {
  const { id, course_id: courseId, group_id: groupId, day, starts_at: at, cancelled } = session;
  // Nobody was there, or missing, at what did not take place.
  if (cancelled === 1) return [];
  const made = prepared(
    raw,
    `SELECT s.id FROM session s JOIN import_run r ON r.id = s.imported_by AND r.plan IS NOT NULL
     WHERE s.course_id = @courseId AND s.day = @day AND s.id <> @id AND s.removed_at IS NULL AND s.by_hand = 0
       AND (s.ends_at - s.starts_at >= ${ALL_DAY} OR abs(s.starts_at - @at) <= ${NEAR})`,
  )
    .pluck()
    .all({ courseId, day, id, at }) as number[];
  return made.filter((own) => {
    const moved = MOVES.reduce(
      (sum, move) => sum + prepared(raw, move).run({ id, made: own, courseId, groupId }).changes,
      0,
    );
    if (moved === 0) return false;
    prepared(
      raw,
      `UPDATE session SET (roll_at, roll_by) = (SELECT roll_at, roll_by FROM session WHERE id = @own) WHERE id = @id AND roll_at IS NULL`,
    ).run({ id, own });
    prepared(
      raw,
      `UPDATE session SET removed_at = @now WHERE id = @own AND NOT EXISTS (SELECT 1 FROM attendance WHERE session_id = @own)
         AND NOT EXISTS (SELECT 1 FROM presence_row WHERE session_id = @own)`,
    ).run({ own, now });
    return true;
  });
}
