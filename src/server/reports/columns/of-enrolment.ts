/** How columns of a learner's time in one course find their values; nothing where a row has none. */
import { dayOf } from '@/core/time/zone';
import type { InCourse, ReportRow, RowTime, WhereTheyStand } from '../row';

/** A column of the progress in a course. */
export const ofProgress =
  <T>(of: (progress: NonNullable<InCourse['progress']>, at: RowTime) => T) =>
  ({ inCourse }: ReportRow, at: RowTime): T | null =>
    inCourse?.progress ? of(inCourse.progress, at) : null;

/** A column of where somebody stands. */
export const ofWhereTheyStand =
  <T>(of: (stands: WhereTheyStand, at: RowTime) => T) =>
  ({ inCourse }: ReportRow, at: RowTime): T | null =>
    inCourse?.standing ? of(inCourse.standing, at) : null;

export const ofEnrolment =
  <T>(of: (inCourse: InCourse, at: RowTime) => T) =>
  ({ inCourse }: ReportRow, at: RowTime): T | null =>
    inCourse === null ? null : of(inCourse, at);

/** A share of the points as per cent, to a tenth. */
export const percentOf = (share: number) => Math.round(1000 * share) / 10;

/** A mean as it is kept, to a thousandth. */
export const inThousandths = (value: number | null) => (value === null ? null : Math.round(value * 1000) / 1000);

/** Can anything be overdue of them? Nothing is of whoever's time in the course is over or has not begun. */
export const canBeOverdue = ({ enrolment }: Pick<InCourse, 'enrolment'>, { now, zone }: RowTime) =>
  enrolment.status === 'active' && enrolment.enrolled_day <= dayOf(now, zone);
