/** Grades of a course looked at by item, by category and by group. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import type { CourseItem } from '@/core/completion/course';
import { categoryMean, scoresInTime } from '@/core/grades/course-grades';
import { patternOf, type Pattern } from '@/core/grades/pattern';
import { gainOf, spreadOf, tenths, type Gain, type Spread } from '@/core/grades/spread';
import { groupBy } from '@/core/group-by';
import { countingAttempt, sharesOf } from '@/core/work/attempt';
import { isWork } from '@/core/work/due';
import { readCourse } from '@/data/completion/course';
import { enrolledInView, type Enrolled } from '@/data/completion/enrolled';
import { sayGroup } from '@/data/courses/segments';
import { withRaw } from '@/data/db';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { WorkQuery } from '../completion/work-query';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import { Filter, type List } from '../request/list';
import { pageInOrder } from '../request/list-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { gradesOf, type GradesRow } from './grades-list';

/** One learner on an item. */
interface OnItem {
  enrolled: Enrolled;
  /** What counts, in per cent; null for nothing graded. */
  percent: number | null;
  first: number | null;
  best: number | null;
  last: number | null;
  attempts: number;
  pattern: Pattern | null;
  shares: number[];
}

export interface ItemAnalysis {
  item: CourseItem;
  learners: OnItem[];
  /** Of what counts. */
  spread: Spread;
  tenths: number[];
  /** Means over everybody's first, best and last attempt, in per cent. */
  first: number | null;
  best: number | null;
  last: number | null;
  attempts: number;
}

const mean = (values: readonly number[]) =>
  values.length === 0 ? null : values.reduce((sum, value) => sum + value, 0) / values.length;

/** Everybody's grades in a course in view, as of a moment. */
export async function gradesInView(runtime: Pick<Runtime, 'db'>, view: View): Promise<GradesRow[]> {
  return gradesOf(runtime, view, await enrolledInView(runtime.db, view));
}

/** An item of a course: its scores, and how attempts went. */
export function analyseItem(rows: readonly GradesRow[], item: CourseItem): ItemAnalysis {
  const learners = rows.map(({ enrolled, grades, passMark }): OnItem => {
    const gradeOfItem = grades.find((grade) => grade.item.id === item.id);
    const attempts = gradeOfItem?.attempts ?? [];
    const shares = sharesOf(attempts, item.points).map((share) => 100 * share);
    return {
      enrolled,
      percent: gradeOfItem?.counting ? 100 * gradeOfItem.counting.share : null,
      first: shares[0] ?? null,
      best: shares.length === 0 ? null : Math.max(...shares),
      last: shares.at(-1) ?? null,
      attempts: attempts.length,
      pattern: patternOf(shares, passMark),
      shares,
    };
  });
  const figuresOf = (value: (one: OnItem) => number | null) => learners.flatMap((learner) => value(learner) ?? []);
  const scores = figuresOf(({ percent }) => percent);
  return {
    item,
    learners,
    spread: spreadOf(scores),
    tenths: tenths(scores),
    first: mean(figuresOf(({ first }) => first)),
    best: mean(figuresOf(({ best }) => best)),
    last: mean(figuresOf(({ last }) => last)),
    attempts: learners.reduce((sum, { attempts }) => sum + attempts, 0),
  };
}

/** A category with who practised it. */
export interface CategoryAnalysis {
  name: string;
  weight: number | null;
  items: number;
  spread: Spread;
  /** Learners with a hand-in in it in the period, and the mean of these results in per cent. */
  practised: number;
  practisedMean: number | null;
  /** Each with a score in it, weakest first. */
  learners: { enrolled: Enrolled; mean: number; graded: number; pattern: Pattern | null; series: number[] }[];
}

/** Each category of a course: how well it is done, by whom, and who practised it in a period. */
export function analyseCategories(
  rows: readonly GradesRow[],
  { from = -8.64e15, to = 8.64e15 }: { from?: number; to?: number },
): CategoryAnalysis[] {
  const course = rows[0]?.course;
  return (course?.categories ?? []).map(({ name, weight }) => {
    let practised = 0;
    const shares: number[] = [];
    const learners = rows.flatMap(({ enrolled, grades, passMark }) => {
      const inPeriod = grades
        .filter(({ item }) => item.category === name)
        .flatMap(({ attempts, item }) => {
          const practisedWork = attempts.filter(
            (attempt) => attempt.submitted_at !== null && attempt.submitted_at >= from && attempt.submitted_at < to,
          );
          return practisedWork.length === 0 ? [] : [countingAttempt(practisedWork, item.points, item.policy)];
        });
      if (inPeriod.length > 0) practised += 1;
      for (const counting of inPeriod) if (counting) shares.push(100 * counting.share);
      const { mean: own, graded } = categoryMean(grades, name);
      if (own === null) return [];
      const series = scoresInTime(grades, name);
      return [{ enrolled, mean: own, graded, pattern: patternOf(series, passMark), series }];
    });
    return {
      name,
      weight,
      items: course.items.filter(({ category }) => category === name).length,
      spread: spreadOf(learners.map((learner) => learner.mean)),
      practised,
      practisedMean: mean(shares),
      learners: learners.sort((a, b) => a.mean - b.mean),
    };
  });
}

/** A unit's check at its beginning and its end. */
export interface UnitGain extends Gain {
  unit: string;
  before_item: string;
  after_item: string;
}

/** The gain of each unit that has a check at its beginning and one at its end. */
export function gainsOf(rows: readonly GradesRow[]): UnitGain[] {
  const course = rows[0]?.course;
  if (!course) return [];
  const staged = course.items.filter(({ stage }) => stage !== null);
  return [...groupBy(staged, ({ unitId }) => unitId)].flatMap(([, items]) => {
    const [before, after] = (['before', 'after'] as const).map((stage) => items.find((item) => item.stage === stage));
    if (!before || !after) return [];
    const percent = ({ grades }: GradesRow, item: CourseItem) => {
      const counting = grades.find((grade) => grade.item.id === item.id)?.counting;
      return counting ? 100 * counting.share : null;
    };
    const gain = gainOf(rows.map((row) => [percent(row, before), percent(row, after)] as const));
    return [{ unit: before.unit ?? '', before_item: before.title, after_item: after.title, ...gain }];
  });
}

const BY = ['course', 'category', 'item'] as const;

class GroupsQuery extends WorkQuery {
  @Filter({ help: `what is compared: ${BY.join(', ')}; the course’s graded work where it is left out` })
  @IsOptional()
  @IsIn(BY, { message: `is not one of ${BY.join(', ')}` })
  by?: (typeof BY)[number];

  @Filter({ help: 'one category or item, by its name or id' })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  of?: string;
}

/** A group's scores on something. */
export interface GroupSpread extends Spread {
  group: string;
  what: string;
}

/** Groups of a course beside each other and beside everybody: mean, median, quartiles and how many. @throws InvalidInput, NotFound */
export async function groupsCompared(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(GroupsQuery, values, runtime.zone);
  const { course, organisation, caseload, by = 'course', of } = query;
  if (course === undefined)
    throw new InvalidInput([{ field: 'course', message: 'is missing: groups are those of a course' }]);
  const view = await openView(runtime, viewer, { course, organisation, caseload }, query.as_of);
  const rows = await gradesInView(runtime, view);
  const model = await withRaw(runtime.db, (raw) => readCourse(raw, view.segment.courseId!));
  const whats = whatsOf(model, by).filter(({ key }) => of === undefined || key === of);
  if (whats.length === 0 && of !== undefined) throw new NotFound('No such category or item');
  const groups = [...groupBy(rows, ({ enrolled }) => enrolled.group)].sort(([a], [b]) =>
    (a ?? '￿').localeCompare(b ?? '￿'),
  );
  const all: GroupSpread[] = whats.flatMap(({ title, scoreOf }) => {
    const spread = (group: string, some: readonly GradesRow[]): GroupSpread => ({
      group,
      what: title,
      ...spreadOf(some.flatMap((row) => scoreOf(row) ?? [])),
    });
    return [
      ...groups.map(([group, some]) => spread(group === null ? 'no group' : sayGroup(group), some)),
      ...(groups.length > 1 ? [spread('everybody', rows)] : []),
    ];
  });
  const { rows: page, next } = pageInOrder(all, query, (row) => `${row.what}/${row.group}`);
  return { query, view, rows: page, total: all.length, next, now: view.now, zone: runtime.zone };
}

interface What {
  key: string;
  title: string;
  /** In per cent; null for nothing graded. */
  scoreOf: (row: GradesRow) => number | null;
}

function whatsOf(course: ReturnType<typeof readCourse>, by: (typeof BY)[number]): What[] {
  if (by === 'course') return [{ key: 'course', title: 'graded work', scoreOf: ({ means }) => means.on_graded_work }];
  if (by === 'category') {
    return course.categories.map(({ name }) => ({
      key: name,
      title: name,
      scoreOf: ({ grades }) => categoryMean(grades, name).mean,
    }));
  }
  return course.items
    .filter(({ points, kind }) => isWork(kind, points))
    .map((item) => ({
      key: item.externalId,
      title: item.title,
      scoreOf: ({ grades }) => {
        const counting = grades.find((grade) => grade.item.id === item.id)?.counting;
        return counting ? 100 * counting.share : null;
      },
    }));
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1000) / 1000);

export const GROUP_GRADES = {
  name: 'group-grades',
  path: '/courses/grades/groups',
  query: GroupsQuery,
  columns: {
    what: { title: 'What', isKey: true, figures: { what: ({ what }) => what } },
    group: { title: 'Group', isKey: true, figures: { group: ({ group }) => group } },
    n: { title: 'Learners', figures: { n: ({ n }) => n } },
    mean: { title: 'Mean', figures: { mean: ({ mean: value }) => round(value) } },
    median: { title: 'Median', figures: { median: ({ median }) => round(median) } },
    quartiles: {
      title: 'Quartiles',
      figures: { lower_quartile: ({ low }) => round(low), upper_quartile: ({ high }) => round(high) },
    },
  },
  read: groupsCompared,
} satisfies List<GroupSpread>;

/** The items of a course that are work, or have a result all the same, in outline order. */
export async function gradedItems({ db }: Pick<Runtime, 'db'>, courseId: number): Promise<CourseItem[]> {
  return withRaw(db, (raw) => {
    const { items } = readCourse(raw, courseId);
    return items.filter(({ kind, points, hasResults }) => isWork(kind, points) || hasResults);
  });
}
