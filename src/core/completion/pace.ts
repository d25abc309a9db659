/** Pace: what is done against what was planned, and when it would be finished. */
import { countedBack, countedDays, isWithin, type DayRange } from '../drift/counted-days';
import { sayCount } from '../time/words';

/** An item that the plan goes by, in outline order. */
export interface PlannedItem {
  required: boolean;
  /** The day it falls due; null for one without a date. */
  dueDay: number | null;
}

interface CourseDays {
  start: number | null;
  end: number | null;
}

/**
 * The day by which each required item is planned to be done: its due date, else spread evenly over the course in outline
 * order. In a course without any due date the plan of whoever came later runs from their own first day. Null for an item
 * that has neither a date nor a course with a beginning and an end; items that are not required have no plan.
 *
 * @example two undated required items of a course of 10 days from day 0: [5, 10]
 */
export function planOf(
  items: readonly PlannedItem[],
  { start, end }: CourseDays,
  enrolledDay: number,
): (number | null)[] {
  const required = items.filter((item) => item.required);
  const isDated = required.some(({ dueDay }) => dueDay !== null);
  const from = start === null ? null : isDated ? start : Math.max(start, Math.min(enrolledDay, end ?? enrolledDay));
  let place = 0;
  return items.map((item) => {
    if (!item.required) return null;
    place += 1;
    if (item.dueDay !== null) return item.dueDay;
    if (from === null || end === null || end <= from) return null;
    return from + Math.ceil(((end - from) * place) / required.length);
  });
}

export interface Pace {
  /** Required items that were planned to be done by now. */
  planned: number;
  /** Planned by now less done: below 0 for somebody ahead. Null where nothing has a plan, or the course no first and last day. */
  behind: number | null;
  /** The same in weeks of the plan. */
  weeksBehind: number | null;
  /** Items done in a week, at the pace of the last four weeks. */
  perWeek: number;
  /** The day on which everything would be done at this pace; null where nothing is left, or would never be. */
  finishDay: number | null;
}

/** Counted days that the pace is taken over, and the weeks of plan that are mixed in. */
const STRETCH = 28;
const PLANNED_WEEKS = 2;

interface PaceFacts {
  /** Planned day of each required item that is not exempt; null for one without. */
  plan: readonly (number | null)[];
  /** Days on which required items were done. */
  doneDays: readonly number[];
  today: number;
  course: CourseDays;
  /** Breaks, agreed absences and feed gaps. */
  skipped: readonly DayRange[];
}

/** Items planned a week: over the whole of the plan. */
function plannedPerWeek(plan: readonly (number | null)[], { start, end }: CourseDays): number {
  const dated = plan.filter((day) => day !== null);
  if (dated.length === 0) return 0;
  const first = start ?? Math.min(...dated);
  const last = Math.max(end ?? -Infinity, ...dated);
  return (7 * plan.length) / Math.max(7, last - first + 1);
}

/**
 * Pace: `(done in the last 28 counted days + 2 · planned a week) / (28 days + 2 weeks)`, so that somebody of whom little is
 * known goes by the plan.
 */
export function paceOf({ plan, doneDays, today, course, skipped }: PaceFacts): Pace {
  const perWeekPlanned = plannedPerWeek(plan, course);
  const dated = plan.filter((day) => day !== null);
  // Without a beginning and an end there is no plan to be behind.
  const hasPlan = dated.length > 0 && course.start !== null && course.end !== null;
  const planned = hasPlan ? dated.filter((day) => day <= today).length : 0;
  const from = countedBack(today, STRETCH, skipped);
  const recent = doneDays.filter((day) => day > from && day <= today && !isWithin(day, skipped)).length;
  const perDay = (recent + PLANNED_WEEKS * perWeekPlanned) / (STRETCH + 7 * PLANNED_WEEKS);
  const done = doneDays.filter((day) => day <= today).length;
  const left = plan.length - done;
  const behind = hasPlan ? planned - done : null;
  return {
    planned,
    behind,
    weeksBehind: behind === null || perWeekPlanned === 0 ? null : behind / perWeekPlanned,
    perWeek: 7 * perDay,
    finishDay: left <= 0 || perDay <= 0 ? null : today + Math.ceil(left / perDay),
  };
}

/** A day of the pace chart: what was planned by its end, and what was done. */
export interface PacePoint {
  day: number;
  planned: number;
  /** Null for a day that has not come. */
  done: number | null;
}

/** Plan and done at each week's end, from the course's beginning to its end. */
export function paceByWeek({ plan, doneDays, today, course }: Omit<PaceFacts, 'skipped'>): PacePoint[] {
  const known = [...plan.filter((day) => day !== null), ...doneDays];
  const first = course.start ?? (known.length > 0 ? Math.min(...known) : today);
  const last = Math.max(
    course.end ?? today,
    ...known.filter((day) => day <= today + 366),
    // After its last day nothing more is planned.
    Math.min(today, course.end ?? first + 366),
  );
  const points: PacePoint[] = [];
  for (let day = first + 6; day < last + 7 && points.length < 120; day += 7) {
    points.push({
      day,
      planned: plan.filter((one) => one !== null && one <= day).length,
      done: day - 6 > today ? null : doneDays.filter((one) => one <= Math.min(day, today)).length,
    });
  }
  return points;
}

/** "3 items behind plan", "level with plan", "2 items ahead of plan". */
export function sayBehind(behind: number | null): string {
  if (behind === null) return 'no plan to go by';
  if (behind === 0) return 'level with plan';
  return `${sayCount(Math.abs(behind), 'item')} ${behind > 0 ? 'behind' : 'ahead of'} plan`;
}

/** Weeks of counted days that are left of a course; null for one without an end. */
export function weeksLeft(today: number, end: number | null, skipped: readonly DayRange[]): number | null {
  return end === null ? null : Math.ceil(countedDays(today, end, skipped) / 7);
}
