/** Columns of a learner's time in one course. */
import { STATUS_WORDS } from '@/core/completion/progress';
import { DUE_WORDS } from '@/core/work/due';
import { firstHandIn } from '@/core/work/attempt';
import { isOverdue, daysLate } from '@/core/work/due';
import { categoryMean, countGrades, scoresInTime } from '@/core/grades/course-grades';
import { onScale } from '@/core/grades/bands';
import { patternOf } from '@/core/grades/pattern';
import { STATE_WORDS } from '@/core/completion/state';
import { dayOf } from '@/core/time/zone';
import { sayGroup } from '@/data/courses/segments';
import type { InCourse, ReportColumn, ReportRow, RowTime, WhereTheyStand } from '../row';
import { reasonsOf } from './learner';

/** A column of the progress in a course; nothing where the row has none. */
const ofProgress =
  <T>(of: (progress: NonNullable<InCourse['progress']>, at: RowTime) => T) =>
  ({ inCourse }: ReportRow, at: RowTime): T | null =>
    inCourse?.progress ? of(inCourse.progress, at) : null;

/** A column of where somebody stands. */
const ofStanding =
  <T>(of: (standing: WhereTheyStand, at: RowTime) => T) =>
  ({ inCourse }: ReportRow, at: RowTime): T | null =>
    inCourse?.standing ? of(inCourse.standing, at) : null;

const ofEnrolment =
  <T>(of: (inCourse: InCourse, at: RowTime) => T) =>
  ({ inCourse }: ReportRow, at: RowTime): T | null =>
    inCourse === null ? null : of(inCourse, at);

const times = (code: string) =>
  ofEnrolment(({ attendance }) => (attendance === null ? null : (attendance.byMark[code] ?? 0)));

const percentOf = (share: number) => Math.round(1000 * share) / 10;
const inThousandths = (value: number | null) => (value === null ? null : Math.round(value * 1000) / 1000);

/** Can anything be overdue of them? Nothing is of whoever's time in the course is over or has not begun. */
export const canBeOverdue = ({ enrolment }: Pick<InCourse, 'enrolment'>, { now, zone }: RowTime) =>
  enrolment.status === 'active' && enrolment.enrolled_day <= dayOf(now, zone);

export const ENROLMENT_COLUMNS = [
  {
    name: 'course',
    title: 'Course',
    kind: 'text',
    says: 'The course’s code.',
    per: 'enrolment',
    leaves: true,
    of: ofEnrolment(({ enrolment }) => enrolment.course),
  },
  {
    name: 'course_title',
    title: 'Course title',
    kind: 'text',
    says: 'The course’s whole title.',
    per: 'enrolment',
    leaves: true,
    of: ofEnrolment(({ enrolment }) => enrolment.course_title),
  },
  {
    name: 'group',
    title: 'Group',
    kind: 'text',
    says: 'The group in the course.',
    per: 'enrolment',
    leaves: true,
    of: ofEnrolment(({ enrolment }) => (enrolment.group === null ? null : sayGroup(enrolment.group))),
  },
  {
    name: 'enrolled_on',
    title: 'Enrolled',
    kind: 'day',
    says: 'The first day in the course.',
    per: 'enrolment',
    leaves: true,
    of: ofEnrolment(({ enrolment }) => enrolment.enrolled_day),
  },
  {
    name: 'ended_on',
    title: 'Ended',
    kind: 'day',
    says: 'The last day, where the enrolment has ended.',
    per: 'enrolment',
    leaves: true,
    of: ofEnrolment(({ enrolment }) => enrolment.ended_day),
  },
  {
    name: 'enrolment_status',
    title: 'Enrolment',
    kind: 'text',
    says: 'Active, completed or withdrawn, as the roster has it.',
    per: 'enrolment',
    leaves: true,
    of: ofEnrolment(({ enrolment }) => enrolment.status),
  },
  {
    name: 'course_status',
    title: 'Where they stand',
    kind: 'text',
    says: 'Not started, under way, completed or certified.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ courseStatus }) => STATUS_WORDS[courseStatus]),
  },
  {
    name: 'progress',
    title: 'Progress',
    kind: 'share',
    says: 'Required items done, of those that are not exempt.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ share }) => share),
    averageOf: 'progress',
  },
  {
    name: 'done',
    title: 'Done',
    kind: 'count',
    says: 'Required items that are done.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ done }) => done),
  },
  {
    name: 'required',
    title: 'Required',
    kind: 'count',
    says: 'Required items, without those that are exempt.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ required }) => required),
  },
  {
    name: 'behind',
    title: 'Behind plan',
    kind: 'count',
    says: 'Items planned by today less those done; below 0 for who is ahead.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ behind }) => behind),
  },
  {
    name: 'projected_finish',
    title: 'Finish at this pace',
    kind: 'day',
    says: 'The day on which everything would be done at the pace of the last four weeks.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofProgress(({ pace }) => pace.finishDay),
  },
  {
    name: 'completed_on',
    title: 'Completed',
    kind: 'day',
    says: 'The day on which the last required item was done.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ completedAt }, { zone }) => (completedAt === null ? null : dayOf(completedAt, zone))),
  },
  {
    name: 'units_left',
    title: 'Units left',
    kind: 'count',
    says: 'Units with a required item that is not done.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofProgress(({ unitsLeft }) => unitsLeft),
  },
  {
    name: 'weeks_left',
    title: 'Weeks left',
    kind: 'number',
    says: 'Weeks to the course’s end, without its breaks.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofProgress(({ weeksLeft }) => weeksLeft),
  },
  {
    name: 'on_graded_work',
    title: 'On graded work',
    kind: 'percent',
    says: 'The weighted mean of what has been graded.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ onGraded }) => inThousandths(onGraded)),
    averageOf: 'onGraded',
  },
  {
    name: 'of_whole_course',
    title: 'Of the whole course',
    kind: 'percent',
    says: 'The same with everything that is not yet earned at 0.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ ofWhole }) => inThousandths(ofWhole)),
    averageOf: 'ofWhole',
  },
  {
    name: 'if_missing_scores_0',
    title: 'If missing work scores 0',
    kind: 'percent',
    says: 'Graded work, and overdue work at 0.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofEnrolment(({ means }) => inThousandths(means?.if_missing_scores_0 ?? null)),
  },
  {
    name: 'grade',
    title: 'Grade',
    kind: 'text',
    says: 'The total of the whole course on its own scale; empty where it has none.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofEnrolment(({ means, known }) => onScale(means?.of_whole_course ?? null, known?.course.options.scale ?? [])),
  },
  {
    name: 'pattern',
    title: 'Pattern of scores',
    kind: 'text',
    says: 'Steady, steady low, rising, falling or a blip; empty with fewer than 3 scores.',
    per: 'enrolment',
    leaves: false,
    needs: ['work'],
    of: ofEnrolment(({ grades, passMark }) => patternOf(scoresInTime(grades), passMark)),
  },
  {
    name: 'graded',
    title: 'Graded',
    kind: 'count',
    says: 'Items with a grade that counts.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofEnrolment(({ grades, known }) => (known ? countGrades(grades, known.course.categories).graded : null)),
  },
  {
    name: 'overdue',
    title: 'Overdue',
    kind: 'count',
    says: 'Assignments past their date and not handed in, extensions honoured.',
    per: 'enrolment',
    leaves: true,
    needs: ['standing'],
    of: ofStanding(({ overdue }) => overdue),
    averageOf: 'overdue',
  },
  {
    name: 'next_due',
    title: 'Next due',
    kind: 'instant',
    says: 'The next date of work that is not handed in.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ({ inCourse }, at) => {
      const { now } = at;
      if (inCourse === null || !canBeOverdue(inCourse, at)) return null;
      const open = inCourse.grades.filter(
        ({ dueState, dueAt }) =>
          dueAt !== null && dueAt >= now && ['not_due', 'due_soon', 'started_not_handed_in'].includes(dueState ?? ''),
      );
      return open.length === 0 ? null : Math.min(...open.map(({ dueAt }) => dueAt!));
    },
  },
  {
    name: 'attendance_rate',
    title: 'Attendance',
    kind: 'share',
    says: 'Credit of the marks that count, of the sessions of the report’s period whose roll was taken.',
    per: 'enrolment',
    leaves: true,
    needs: ['attendance'],
    of: ofEnrolment(({ attendance }) => attendance?.rate ?? null),
    averageOf: 'attendance',
  },
  {
    name: 'counted',
    title: 'Sessions counted',
    kind: 'count',
    says: 'Sessions of the period with a mark that counts.',
    per: 'enrolment',
    leaves: true,
    needs: ['attendance'],
    of: ofEnrolment(({ attendance }) => attendance?.counted ?? null),
  },
  ...(['present', 'late', 'partial', 'absent', 'excused'] as const).map((code): ReportColumn => ({
    name: `marked_${code}`,
    title: `Marked ${code}`,
    kind: 'count',
    says: `Sessions of the period with the mark “${code}”.`,
    per: 'enrolment',
    leaves: true,
    needs: ['attendance'],
    of: times(code),
  })),
  {
    name: 'missed_in_a_row',
    title: 'Missed in a row',
    kind: 'count',
    says: 'Sessions missed one after the other, up to the last one counted.',
    per: 'enrolment',
    leaves: true,
    needs: ['attendance'],
    of: ofEnrolment(({ attendance }) => attendance?.missedInARow ?? null),
  },
  {
    name: 'drift_week_ago',
    title: 'Drift a week ago',
    kind: 'number',
    says: 'The course’s drift seven days before.',
    per: 'enrolment',
    leaves: false,
    of: ofEnrolment(({ enrolment }) => (enrolment.week_ago === null ? null : Math.round(enrolment.week_ago * 10) / 10)),
  },
  {
    name: 'reasons',
    title: 'Reasons',
    kind: 'texts',
    says: 'What the drift is made of, the strongest first.',
    per: 'enrolment',
    leaves: false,
    of: reasonsOf,
  },
  {
    name: 'platform_progress',
    title: 'Progress, the platform says',
    kind: 'percent',
    says: 'What the course’s platform itself last said of it.',
    per: 'enrolment',
    leaves: false,
    of: ofEnrolment(({ enrolment }) => enrolment.platform?.progress ?? null),
  },
  {
    name: 'done_list',
    title: 'Done',
    kind: 'table',
    says: 'The required items that are done, with the day.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofProgress(({ statuses }, { zone }) => ({
      heads: [
        { name: 'item', title: 'Item', kind: 'text' },
        { name: 'on', title: 'Done on', kind: 'day' },
      ],
      rows: statuses
        .filter(({ item, state }) => item.required && state.state === 'done')
        .map(({ item, state }) => [item.title, state.doneAt === null ? null : dayOf(state.doneAt, zone)]),
    })),
  },
  {
    name: 'left_list',
    title: 'Left to do',
    kind: 'table',
    says: 'The required items that are not done, and what is left of each.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofProgress(({ statuses }, { zone }) => ({
      heads: [
        { name: 'item', title: 'Item', kind: 'text' },
        { name: 'left', title: 'Left', kind: 'text' },
        { name: 'due_on', title: 'Due', kind: 'day' },
      ],
      rows: statuses
        .filter(({ item, state }) => item.required && state.state !== 'done' && state.state !== 'exempt')
        .map(({ item, state, dueAt }) => [
          item.title,
          state.left.join('; ') || STATE_WORDS[state.state],
          dueAt === null ? null : dayOf(dueAt, zone),
        ]),
    })),
  },
  {
    name: 'work_due_list',
    title: 'Work due',
    kind: 'table',
    says: 'Assignments that are overdue or fall due and are not handed in, with their dates.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ({ inCourse }, at) => ({
      heads: [
        { name: 'item', title: 'Item', kind: 'text' },
        { name: 'due_at', title: 'Due', kind: 'instant' },
        { name: 'state', title: 'State', kind: 'text' },
        { name: 'days_late', title: 'Late', kind: 'days' },
      ],
      rows: (inCourse === null || !canBeOverdue(inCourse, at) ? [] : inCourse.grades)
        .filter(({ dueState }) => ['overdue', 'started_not_handed_in', 'due_soon', 'not_due'].includes(dueState ?? ''))
        .sort((a, b) => a.dueAt! - b.dueAt!)
        .map(({ item, dueAt, dueState, attempts }) => [
          item.title,
          dueAt,
          DUE_WORDS[dueState!],
          isOverdue(dueState!, dueAt!, at.now) ? daysLate(dueAt!, firstHandIn(attempts), at.now) : null,
        ]),
    }),
  },
  {
    name: 'score_list',
    title: 'Scores',
    kind: 'table',
    says: 'Each graded item: the score in per cent, and the average where the report has one.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ({ inCourse, itemAverages }) => ({
      heads: [
        { name: 'item', title: 'Item', kind: 'text' },
        { name: 'percent', title: 'Score', kind: 'percent' },
        ...(itemAverages.size > 0 ? [{ name: 'average', title: 'Average', kind: 'percent' }] : []),
      ],
      rows: (inCourse?.grades ?? [])
        .filter(({ counting }) => counting !== null)
        .map(({ item, counting }) => [
          item.title,
          percentOf(counting!.share),
          ...(itemAverages.size > 0 ? [itemAverages.get(item.id) ?? null] : []),
        ]),
    }),
  },
  {
    name: 'category_list',
    title: 'Categories',
    kind: 'table',
    says: 'The mean of each category that has grades.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofEnrolment(({ known, grades }) => ({
      heads: [
        { name: 'category', title: 'Category', kind: 'text' },
        { name: 'percent', title: 'Mean', kind: 'percent' },
      ],
      rows: (known?.course.categories ?? []).flatMap(({ name }) => {
        const { mean } = categoryMean(grades, name);
        return mean === null ? [] : [[name, inThousandths(mean)]];
      }),
    })),
  },
  {
    name: 'session_list',
    title: 'Sessions',
    kind: 'table',
    says: 'The sessions of the period that they were expected in or came to, and how each went.',
    per: 'enrolment',
    leaves: true,
    needs: ['sessions'],
    of: ofEnrolment(({ sessions }) => ({
      heads: [
        { name: 'starts_at', title: 'When', kind: 'instant' },
        { name: 'title', title: 'Session', kind: 'text' },
        { name: 'outcome', title: 'Attendance', kind: 'text' },
      ],
      rows: sessions.map(({ starts_at, title, cancelled, label, outcome }) => [
        starts_at,
        title,
        cancelled === 1 ? 'cancelled' : (label ?? outcome),
      ]),
    })),
  },
  {
    name: 'pace',
    title: 'Pace',
    kind: 'pace',
    says: 'Required items done by week beside the plan.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: ofEnrolment((inCourse) => inCourse.pace()),
  },
  {
    name: 'scores',
    title: 'Score',
    kind: 'percent',
    says: 'A column for each chosen item or category: the score in per cent.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: () => null,
    each: ({ inCourse }, of) => {
      if (inCourse === null) return null;
      const grade = inCourse.grades.find(({ item }) => item.externalId === of);
      if (grade) return grade.counting === null ? null : percentOf(grade.counting.share);
      return inThousandths(categoryMean(inCourse.grades, of).mean);
    },
  },
  {
    name: 'states',
    title: 'State',
    kind: 'text',
    says: 'A column for each chosen item: not started, started, done or exempt.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: () => null,
    each: ({ inCourse }, of) => {
      const status = inCourse?.progress?.statuses.find(({ item }) => item.externalId === of);
      return status ? STATE_WORDS[status.state.state] : null;
    },
  },
  {
    name: 'due_dates',
    title: 'Due',
    kind: 'instant',
    says: 'A column for each chosen item: when it falls due for them.',
    per: 'enrolment',
    leaves: true,
    needs: ['work'],
    of: () => null,
    each: ({ inCourse }, of) => inCourse?.progress?.statuses.find(({ item }) => item.externalId === of)?.dueAt ?? null,
  },
] as const satisfies readonly ReportColumn[];
