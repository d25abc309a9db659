/** Days of a zone's calendar, worked out by the database itself. */
import { EARLIEST } from '@/core/imports/validators';
import { DAY, HOUR, offsetAt } from '@/core/time/zone';

/** No log spans more than this: a hundred years. */
const LONGEST = 36_525 * DAY;

/**
 * SQL for the day an instant falls on in a zone, good for instants from `from` to `to`: the offset
 * is a constant between two changes of the clocks, so a handful of comparisons say it.
 * @param column SQL of the instant, in epoch ms
 */
export function daySql(column: string, zone: string, from: number, to: number): string {
  const steps: { until: number; offset: number }[] = [];
  // A log taken in long ago may hold times of centuries: before 1990 one offset does.
  const start = Math.max(from, EARLIEST);
  const end = Math.min(to, start + LONGEST);
  let offset = offsetAt(start, zone);
  for (let at = start; at < end;) {
    const next = Math.min(at + DAY, end);
    const later = offsetAt(next, zone);
    if (later !== offset) {
      steps.push({ until: changeBetween(at, next, zone), offset });
      offset = later;
    }
    at = next;
  }
  if (steps.length === 0) return `((${column} + ${offset}) / ${DAY})`;
  const cases = steps.map((step) => `WHEN ${column} < ${step.until} THEN ${step.offset}`).join(' ');
  return `((${column} + CASE ${cases} ELSE ${offset} END) / ${DAY})`;
}

/** The instant at which the offset of `before` gives way to that of `after`. */
function changeBetween(before: number, after: number, zone: string): number {
  const old = offsetAt(before, zone);
  let [low, high] = [before, after];
  // Clocks change on whole quarter hours at the finest.
  while (high - low > HOUR / 4) {
    const middle = Math.floor((low + high) / 2);
    if (offsetAt(middle, zone) === old) low = middle;
    else high = middle;
  }
  const quarter = HOUR / 4;
  return Math.floor(high / quarter) * quarter;
}

/**
 * SQL that adds the events for which a condition holds to the counts of course_day, or takes them
 * from it (`sign` -1), as staff's or learners'.
 */
export function courseCount(day: string, where: string, staff: number, sign: number): string {
  return `INSERT INTO course_day (course_id, day, action_id, staff, events)
    SELECT course_id, ${day}, action_id, ${staff}, ${sign} * count(*) FROM event WHERE ${where} GROUP BY 1, 2, 3
    ON CONFLICT DO UPDATE SET events = events + excluded.events`;
}
