/** Columns of a course that hold several things: tables, the pace by week, a column for each chosen item. */
import { DUE_WORDS, isOverdue, daysLate } from '@/core/work/due';
import { firstHandIn } from '@/core/work/attempt';
import { categoryMean } from '@/core/grades/course-grades';
import { STATE_WORDS } from '@/core/completion/state';
import { dayOf } from '@/core/time/zone';
import type { ReportColumn } from '../row';
import { ofProgress, ofEnrolment, percentOf, inThousandths, canBeOverdue } from './of-enrolment';

export const ENROLMENT_LIST_COLUMNS = [
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
