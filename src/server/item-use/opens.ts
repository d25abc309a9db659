/** The chart of opens per day: by kind, by group, or by role. */
import { IsIn, IsOptional } from 'class-validator';
import { dayOf } from '@/core/time/zone';
import { courseSpan, opensOfCourse, opensOfLearners, seesWholeCourse } from '@/data/item-use/opens';
import type { Viewer } from '@/data/scope';
import { readInput, type Values } from '../request/input';
import { PeriodQuery } from '../request/period';
import type { Runtime } from '../runtime';
import { openView } from '../request/view';

const OPENS_BY = ['kind', 'group', 'role'] as const;
/** Days drawn at most, whatever a log's clock said: three years. */
const MOST_DAYS = 3 * 366;
/** Weeks shown; `all` is the whole course. */
const OPENS_WEEKS = ['1', '2', '4', '8', 'all'] as const;

class OpensQuery extends PeriodQuery {
  @IsOptional() @IsIn(OPENS_BY, { message: `is not one of ${OPENS_BY.join(', ')}` }) by?: (typeof OPENS_BY)[number];
  @IsOptional()
  @IsIn(OPENS_WEEKS, { message: `is not one of ${OPENS_WEEKS.join(', ')}` })
  weeks?: (typeof OPENS_WEEKS)[number];
}

export interface DailyOpens {
  by: (typeof OPENS_BY)[number];
  weeks: (typeof OPENS_WEEKS)[number];
  series: string[];
  /** Every day of the period, also those on which nothing was opened. */
  days: { day: number; opens: Record<string, number> }[];
}

/**
 * Opens (events looked, worked or talked) per day of a course in view.
 * @throws InvalidInput, NotFound
 */
export async function dailyOpens(
  { db, zone, ...runtime }: Runtime,
  viewer: Viewer,
  values: Values,
): Promise<DailyOpens> {
  const { course, group, organisation, caseload, by = 'kind', weeks = '4' } = readInput(OpensQuery, values, zone);
  const view = await openView({ db, zone, ...runtime }, viewer, { course, group, organisation, caseload });
  const courseId = view.segment.courseId!;
  const today = dayOf(view.now, zone);
  const span = await courseSpan(db, courseId);
  const last = Math.max(Math.min(today, span?.last ?? today), span?.first ?? today);
  const first = weeks === 'all' ? Math.max(span?.first ?? today, last - MOST_DAYS + 1) : last - 7 * Number(weeks) + 1;
  const whole = seesWholeCourse(view, courseId);
  const counts =
    whole && by !== 'group'
      ? await opensOfCourse(db, courseId, by, { first, last })
      : await opensOfLearners(db, view, courseId, by, { first, last });
  const fixed = { kind: ['looked', 'worked', 'talked'], role: whole ? ['learners', 'staff'] : ['learners'], group: [] };
  const series = by === 'group' ? [...new Set(counts.map((row) => row.series))].sort() : fixed[by];
  const days = Array.from({ length: last - first + 1 }, (_, index) => ({
    day: first + index,
    opens: Object.fromEntries(series.map((name) => [name, 0])),
  }));
  for (const { day, series: name, opens } of counts) days[day - first].opens[name] += opens;
  return { by, weeks, series, days };
}
