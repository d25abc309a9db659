/** Grades: learners by items with the three means. */
import { sayPercent } from '@/core/percent';
import { IsOptional, MaxLength } from 'class-validator';
import {
  categoryMean,
  countGrades,
  itemGrades,
  meansOfGrades,
  scoresInTime,
  type ItemGrade,
} from '@/core/grades/course-grades';
import type { Course } from '@/core/completion/course';
import type { Means } from '@/core/grades/means';
import { patternOf, type Pattern } from '@/core/grades/pattern';
import { onScale } from '@/core/grades/bands';
import { fullName } from '@/core/people/name';
import { sortByValue } from '@/core/sort-by-value';
import { sharesOf } from '@/core/work/attempt';
import { passMarkOf } from '@/data/completion/course';
import { storedProgress } from '@/data/completion/stored-progress';
import { enrolledInView, workByCourse, type Enrolled } from '@/data/completion/enrolled';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { ENROLLED_COLUMN, WorkQuery } from '../completion/work-query';
import { readInput, type Values } from '../request/input';
import { gridFigures, type GridFigure } from '../request/grid';
import { Filter, type At, type Column, type List } from '../request/list';
import { pageInOrder, SortedBy } from '../request/list-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';

const SORTS = ['name', 'graded', 'overdue', 'whole'] as const;
type Sort = (typeof SORTS)[number];

class GradesQuery extends WorkQuery {
  @Filter({
    help: 'a category: its items alone',
    says: (category) => `Category ${category}`,
    control: { as: 'choice', label: 'Category', choices: 'categories' },
  })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  category?: string;

  @IsOptional()
  @SortedBy(SORTS)
  sort?: string;
}

/** One learner's grades in a course. */
export interface GradesRow {
  enrolled: Enrolled;
  course: Course;
  means: Means;
  attendanceRate: number | null;
  grades: ItemGrade[];
  /** Of all their scores in time. */
  pattern: Pattern | null;
  passMark: number;
}

/** Grades of some enrolments in view, by course, in their order. */
export async function gradesOf(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  enrolled: readonly Enrolled[],
): Promise<GradesRow[]> {
  const rows = new Map<number, GradesRow>();
  for await (const { work, enrolled: own } of workByCourse(db, view, enrolled)) {
    const passMark = passMarkOf(work.course);
    for (const one of own) {
      const facts = work.of(one.id);
      const grades = itemGrades(work.course, facts, view.now);
      rows.set(one.enrolmentId, {
        enrolled: one,
        course: work.course,
        means: meansOfGrades(work.course, grades, facts.attendanceRate),
        attendanceRate: facts.attendanceRate,
        grades,
        // Only those that are shown are looked at for one.
        get pattern() {
          return patternOf(scoresInTime(grades), passMark);
        },
        passMark,
      });
    }
  }
  return enrolled.map(({ enrolmentId }) => rows.get(enrolmentId)!);
}

/** Who stands where by a mean: by what is kept, but for the one that moves with every due date, and for a past day. */
async function meansInView(
  runtime: Runtime,
  view: View,
  status: 'active' | 'all',
  by: Exclude<Sort, 'name'>,
  people: readonly Enrolled[],
): Promise<Map<number, number | null>> {
  if (view.asOf === null && by !== 'overdue') {
    const kept = await storedProgress(runtime.db, view, status);
    return new Map([...kept.values()].map((one) => [one.enrolmentId, by === 'graded' ? one.onGraded : one.ofWhole]));
  }
  const all = await gradesOf(runtime, view, people);
  const mean = ({ means }: GradesRow) =>
    ({ graded: means.on_graded_work, overdue: means.if_missing_scores_0, whole: means.of_whole_course })[by];
  return new Map(all.map((row) => [row.enrolled.enrolmentId, mean(row)]));
}

/** Everybody that the list shows, in its order. @throws InvalidInput, NotFound */
export async function gradesOrder(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(GradesQuery, values, runtime.zone);
  const { course, group, organisation, caseload, sort = 'name', status = 'active' } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  const all = await enrolledInView(runtime.db, view, status);
  const by = sort.replace('-', '') as Sort;
  const down = sort.startsWith('-') ? -1 : 1;
  if (by !== 'name') {
    const means = await meansInView(runtime, view, status, by, all);
    const mean = ({ enrolmentId }: Enrolled) => means.get(enrolmentId) ?? null;
    return { query, view, all: sortByValue(all, mean, down) };
  }
  return { query, view, all: down < 0 ? all.reverse() : all };
}

/** @throws InvalidInput, NotFound */
export async function grades(runtime: Runtime, viewer: Viewer, values: Values) {
  const { query, view, all } = await gradesOrder(runtime, viewer, values);
  const page = pageInOrder(all, query, ({ enrolmentId }) => enrolmentId);
  const rows = await gradesOf(runtime, view, page.rows);
  return { query, view, rows, total: all.length, next: page.next, now: view.now, zone: runtime.zone };
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1000) / 1000);

/** An item's grade as the API gives it. */
function gradeFigures({ counting, attempts, item }: ItemGrade, passMark: number) {
  return {
    score: counting === null ? null : round(counting.score),
    points: counting?.points ?? item.points,
    attempts: attempts.length,
    pattern: patternOf(
      sharesOf(attempts, item.points).map((share) => 100 * share),
      passMark,
    ),
  };
}

/** A cell of the grid: per cent that counts, attempts, where it stands. */
type GradeCell = [percent: number | null, attempts: number, dueState: ItemGrade['dueState'], isExempt: 0 | 1];

export interface GradesLine {
  id: number;
  enrolmentId: number;
  learnerId: string;
  name: string;
  group: string | null;
  figures: (string | GridFigure)[];
  /** In the order of the course's items that are work or have results. */
  cells: Record<number, GradeCell>;
}

/** Scores drawn as a series. */
const SERIES = 8;

function gradesLine(row: GradesRow, at: At): GradesLine {
  const { enrolled, grades: own } = row;
  return {
    id: enrolled.id,
    enrolmentId: enrolled.enrolmentId,
    learnerId: enrolled.learner_id,
    name: fullName(enrolled),
    group: enrolled.group,
    figures: gridFigures(COLUMNS, row, at),
    cells: Object.fromEntries(
      own.map(({ item, counting, attempts, dueState, isExempt }): [number, GradeCell] => [
        item.id,
        [
          counting === null ? null : Math.round(1000 * counting.share) / 10,
          attempts.length,
          dueState,
          isExempt ? 1 : 0,
        ],
      ]),
    ),
  };
}

const COLUMNS = {
  of: ENROLLED_COLUMN,
  graded: {
    title: 'On graded work',
    sort: 'graded',
    figures: { on_graded_work: ({ means }) => round(means.on_graded_work) },
    grid: {
      width: 62,
      cell: ({ means: { on_graded_work: mean }, passMark }) => ({
        text: sayPercent(mean),
        isBad: mean !== null && mean < passMark,
      }),
    },
  },
  overdue: {
    title: 'If missing work scores 0',
    sort: 'overdue',
    figures: { if_missing_scores_0: ({ means }) => round(means.if_missing_scores_0) },
    grid: { width: 72, isWide: true, cell: ({ means }) => sayPercent(means.if_missing_scores_0) },
  },
  whole: {
    title: 'Of the whole course',
    sort: 'whole',
    figures: { of_whole_course: ({ means }) => round(means.of_whole_course) },
    grid: {
      width: 72,
      isWide: true,
      cell: ({ means: { of_whole_course: mean }, course }) =>
        [sayPercent(mean), onScale(mean, course.options.scale ?? [])].filter(Boolean).join(' '),
    },
  },
  counts: {
    title: 'Pieces',
    figures: {
      graded: ({ grades: own, course }) => countGrades(own, course.categories).graded,
      overdue: ({ grades: own, course }) => countGrades(own, course.categories).overdue,
      pattern: ({ pattern }) => pattern,
    },
    grid: {
      title: 'Pattern',
      width: 132,
      isWide: true,
      cell: ({ grades: own, pattern, passMark }) => {
        const values = scoresInTime(own)
          .slice(-SERIES)
          .map((score) => Math.round(score * 10) / 10);
        return values.length === 0
          ? ''
          : {
              text: pattern ?? '',
              hint: values.map((score) => `${Math.round(score)} %`).join(', '),
              series: { values, level: passMark },
            };
      },
    },
  },
  categories: {
    title: 'Categories',
    figures: {
      categories: ({ grades: own, course }) =>
        Object.fromEntries(course.categories.map(({ name }) => [name, round(categoryMean(own, name).mean)])),
    },
  },
  items: {
    title: 'Items',
    figures: {
      items: ({ grades: own, passMark }) =>
        Object.fromEntries(own.map((one) => [one.item.externalId, gradeFigures(one, passMark)])),
    },
  },
} satisfies Record<string, Column<GradesRow>>;

export const GRADES = {
  name: 'grades',
  path: '/courses/grades',
  query: GradesQuery,
  columns: COLUMNS,
  line: gradesLine,
  spread: {
    omits: ['items', 'categories'],
    of: ({ grades: own }) =>
      Object.fromEntries(own.map(({ item, counting }) => [item.externalId, counting?.score ?? null])),
  },
  read: grades,
} satisfies List<GradesRow>;
