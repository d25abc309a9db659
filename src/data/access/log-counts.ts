/** Comparing the counts kept beside the log with the log. */
import { HOUR } from '@/core/time/zone';
import { daySql } from '../day-sql';
import type { RawConnection } from '../db';
import { closedTo } from '../privacy/retention';

/** One line for each table of counts that differs from what the log gives. */
export function compareCounts(raw: RawConnection, zone: string): string[] {
  const span = raw
    .prepare('SELECT (SELECT min(at) FROM event) AS first, (SELECT max(at) FROM event) AS last')
    .get() as {
    first: number | null;
    last: number;
  };
  const day = span.first === null ? '0' : daySql('at', zone, span.first, span.last + 1);
  const hasClosed = raw.prepare('SELECT 1 FROM log_closed').get() !== undefined;
  const fresh = {
    course_day: `SELECT course_id, ${day}, action_id, learner_id IS NULL, count(*) FROM event
      WHERE at >= ${closedTo('to_at', 'event.course_id')} GROUP BY 1, 2, 3, 4`,
    source_hour: `SELECT source_id, at / ${HOUR}, count(*) FROM event
      WHERE id NOT IN (SELECT event_id FROM platform_snapshot WHERE event_id IS NOT NULL) GROUP BY 1, 2`,
  };
  return Object.entries(fresh).flatMap(([table, sql]) => {
    // The hours of a source are those of all its courses: where one's events have gone, more are counted than there are.
    if (table === 'source_hour' && hasClosed) return [];
    const closed = table === 'course_day' ? `AND day > ${closedTo('to_day', 'course_day.course_id')}` : '';
    const kept = `SELECT * FROM ${table} WHERE events <> 0 ${closed}`;
    const differ = raw
      .prepare(`SELECT (SELECT count(*) FROM (${kept} EXCEPT ${sql})) + (SELECT count(*) FROM (${sql} EXCEPT ${kept}))`)
      .pluck()
      .get() as number;
    return differ === 0 ? [] : [`${table}: ${differ} rows differ from the log`];
  });
}
