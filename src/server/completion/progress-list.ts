/** Progress: learners by items, and what their states come to. */
import { IsIn, IsOptional, MaxLength } from 'class-validator';
import {
  courseStatus,
  milestonesOf,
  COURSE_STATUSES,
  STATUS_WORDS,
  type CourseStatus,
} from '@/core/completion/progress';
import { sayPlatform, type PlatformSays } from '@/core/completion/platform-says';
import { sayPercent } from '@/core/percent';
import { packCell } from '@/core/completion/packed-cell';
import { paceByWeek, paceOf, sayBehind, weeksLeft, type Pace, type PacePoint } from '@/core/completion/pace';
import { progressOfItems, planOfItems, itemStatuses, type ItemStatus } from '@/core/completion/enrolment-progress';
import type { Course } from '@/core/completion/course';
import { itemGrades, meansOfGrades } from '@/core/grades/course-grades';
import { STATE_WORDS } from '@/core/completion/state';
import { mergeRanges, type DayRange } from '@/core/drift/counted-days';
import { fullName } from '@/core/people/name';
import { sortByValue } from '@/core/sort-by-value';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { enrolledInView, factsOfEnrolled, type Enrolled, type Known } from '@/data/completion/enrolled';
import { countUpTo, storedProgress, type StoredProgress } from '@/data/completion/stored-progress';
import { platformSaysOf } from '@/data/people/enrolments';
import { readCourse } from '@/data/completion/course';
import { withRaw } from '@/data/db';
import { courseDates } from '@/data/drift/drift';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { readInput, type Values } from '../request/input';
import { gridFigures, type GridFigure } from '../request/grid';
import { Filter, type At, type Column, type List } from '../request/list';
import { pageInOrder, SortedBy } from '../request/list-query';
import { openView } from '../request/view';
import { ENROLLED_COLUMN, WorkQuery } from './work-query';
import type { Runtime } from '../runtime';
import { passMarks } from '@/data/courses/courses';

const SORTS = ['name', 'behind', 'progress', 'done'] as const;
type Sort = (typeof SORTS)[number];

class ProgressQuery extends WorkQuery {
  @Filter({
    help: `where somebody stands in the course: ${COURSE_STATUSES.join(', ')}`,
    says: (status) => `Course ${STATUS_WORDS[status as CourseStatus] ?? status}`,
    control: {
      as: 'choice',
      label: 'Course status',
      choices: COURSE_STATUSES.map((value) => ({ value, label: STATUS_WORDS[value] })),
    },
  })
  @IsOptional()
  @IsIn(COURSE_STATUSES, { message: `is not one of ${COURSE_STATUSES.join(', ')}` })
  course_status?: CourseStatus;

  @Filter({
    help: 'an item’s id: those who have not done it',
    says: (item, _params, names) => `Not done: ${names.not_done ?? item}`,
  })
  @IsOptional()
  @MaxLength(200, { message: 'is too long' })
  not_done?: string;

  @IsOptional()
  @SortedBy(SORTS)
  sort?: string;
}

/** One learner's progress in a course. */
export interface ProgressRow {
  enrolled: Enrolled;
  done: number;
  required: number;
  share: number | null;
  pace: Pace;
  completedAt: number | null;
  courseStatus: CourseStatus;
  unitsLeft: number;
  unitsPlanned: number;
  units: number;
  weeksLeft: number | null;
  statuses: ItemStatus[];
  /** What the platform says; looked for only where nothing of ours is required. */
  platform?: PlatformSays;
}

/** Days that do not count in a course: breaks and gaps of its feed. */
export async function skippedDays({ db, zone }: Pick<Runtime, 'db' | 'zone'>, courseId: number): Promise<DayRange[]> {
  const dates = await withRaw(db, (raw) => courseDates(raw, courseId, zone));
  return mergeRanges([...dates.breaks, ...dates.feedGaps]);
}

/** The plan of what counts for progress, and the days on which it was done. */
function countedPlan(statuses: readonly ItemStatus[], plan: readonly (number | null)[], zone: string) {
  const isCounted = ({ item, state }: ItemStatus) => item.required && state.state !== 'exempt';
  return {
    plan: plan.filter((_, index) => isCounted(statuses[index])),
    doneDays: statuses.flatMap((status) =>
      isCounted(status) && status.state.doneAt !== null ? [dayOf(status.state.doneAt, zone)] : [],
    ),
  };
}

/** A learner's pace by week: what was planned, and what is done. */
export function paceOfRow(
  { enrolled, statuses }: Pick<ProgressRow, 'enrolled' | 'statuses'>,
  course: Course,
  { now, zone }: At,
): PacePoint[] {
  const plan = planOfItems(course, statuses, enrolled.enrolled_day, zone);
  return paceByWeek({ ...countedPlan(statuses, plan, zone), today: dayOf(now, zone), course });
}

/** Works a learner's progress out of all that is known. */
export function progressRow(
  { enrolled, course, facts }: Known,
  { now, zone, skipped }: { now: number; zone: string; skipped: readonly DayRange[] },
): ProgressRow {
  const today = dayOf(now, zone);
  const statuses = itemStatuses(course, facts, now);
  const progress = progressOfItems(statuses);
  const plan = planOfItems(course, statuses, enrolled.enrolled_day, zone);
  const pace = paceOf({ ...countedPlan(statuses, plan, zone), today, course, skipped });
  const total = meansOfGrades(course, itemGrades(course, facts, now), facts.attendanceRate).of_whole_course;
  const units = milestonesOf(
    statuses.map(({ item, state }) => ({ required: item.required, unitId: item.unitId, state })),
    plan,
    today,
  );
  return {
    enrolled,
    done: progress.done,
    required: progress.required,
    share: progress.share,
    pace,
    completedAt: progress.completedAt,
    courseStatus: courseStatus(progress, course.passMark, total),
    units: units.units,
    unitsLeft: units.left,
    unitsPlanned: units.planned,
    weeksLeft: weeksLeft(today, course.end, skipped),
    statuses,
  };
}

/** What is kept of an enrolment says of progress. */
export function statusOfStored(kept: StoredProgress, passMark: number | null, today: number) {
  const { done, required, plan } = kept;
  return {
    share: required === 0 ? null : done / required,
    behind: plan.length === 0 ? null : countUpTo(plan, today) - done,
    courseStatus: courseStatus(kept, passMark, kept.ofWhole),
  };
}

type Figures = ReturnType<typeof statusOfStored> & { done: number };

const VALUES: Record<Exclude<Sort, 'name'>, (figures: Figures) => number | null> = {
  behind: ({ behind }) => behind,
  progress: ({ share }) => share,
  done: ({ done }) => done,
};

/** Figures of everybody in view, by the enrolment: as kept for now, worked out for a past day. */
async function statusCounts(
  runtime: Runtime,
  view: View,
  status: 'active' | 'all',
  all: readonly Enrolled[],
): Promise<Map<number, Figures>> {
  const { db, zone } = runtime;
  const today = dayOf(view.now, zone);
  if (view.asOf !== null) {
    const rows = await rowsOf(runtime, view, all);
    return new Map(
      rows.map(({ enrolled, done, share, pace, courseStatus: course_status }) => [
        enrolled.enrolmentId,
        { done, share, behind: pace.behind, courseStatus: course_status },
      ]),
    );
  }
  const marks = await passMarks(db);
  const kept = await storedProgress(db, view, status);
  return new Map(
    [...kept.values()].map((one) => [
      one.enrolmentId,
      { done: one.done, ...statusOfStored(one, marks.get(one.courseId) ?? null, today) },
    ]),
  );
}

/** Progress of some enrolments, whole. */
async function rowsOf(runtime: Runtime, view: View, enrolled: readonly Enrolled[]): Promise<ProgressRow[]> {
  const { db, zone } = runtime;
  const skipped = new Map<number, DayRange[]>();
  for (const courseId of new Set(enrolled.map(({ course_id }) => course_id)))
    skipped.set(courseId, await skippedDays(runtime, courseId));
  const known = await factsOfEnrolled(db, view, enrolled);
  return known.map((one) => progressRow(one, { now: view.now, zone, skipped: skipped.get(one.course.id)! }));
}

/** Adds what the platform says to rows of a page of which nothing is required by an outline of ours. */
export async function addPlatform(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  rows: readonly ProgressRow[],
): Promise<void> {
  const without = rows.filter(({ share }) => share === null);
  if (without.length === 0) return;
  const ids = without.map(({ enrolled }) => enrolled.enrolmentId);
  const said = await platformSaysOf(db, view, ids);
  for (const row of without) row.platform = said.get(row.enrolled.enrolmentId);
}

/** Those who have not done an item, of those in its course. */
async function withoutDone(
  runtime: Runtime,
  view: View,
  all: readonly Enrolled[],
  itemId: string,
): Promise<Enrolled[]> {
  const rows = await rowsOf(runtime, view, all);
  return rows
    .filter(({ statuses }) =>
      statuses.some(
        ({ item, state }) => item.externalId === itemId && state.state !== 'done' && state.state !== 'exempt',
      ),
    )
    .map(({ enrolled }) => enrolled);
}

/** Everybody that the list shows, in its order. @throws InvalidInput, NotFound */
export async function progressOrder(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(ProgressQuery, values, runtime.zone);
  const { course, group, organisation, caseload, sort = 'name', status = 'active' } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload }, query.as_of);
  let all = await enrolledInView(runtime.db, view, status);
  if (query.not_done !== undefined) all = await withoutDone(runtime, view, all, query.not_done);
  const by = sort.replace('-', '') as Sort;
  if (by !== 'name' || query.course_status !== undefined) {
    const figures = await statusCounts(runtime, view, status, all);
    if (query.course_status !== undefined)
      all = all.filter(({ enrolmentId }) => figures.get(enrolmentId)?.courseStatus === query.course_status);
    if (by !== 'name') {
      const value = ({ enrolmentId }: Enrolled) => {
        const theirs = figures.get(enrolmentId);
        return theirs ? VALUES[by](theirs) : null;
      };
      all = sortByValue(all, value, sort.startsWith('-') ? -1 : 1);
    }
  }
  if (sort === '-name') all = [...all].reverse();
  return { query, view, all };
}

/** @throws InvalidInput, NotFound */
export async function progress(runtime: Runtime, viewer: Viewer, values: Values) {
  const { query, view, all } = await progressOrder(runtime, viewer, values);
  const { rows, next } = pageInOrder(all, query, ({ enrolmentId }) => enrolmentId);
  const shown = await rowsOf(runtime, view, rows);
  await addPlatform(runtime, view, shown);
  return { query, view, rows: shown, total: all.length, next, now: view.now, zone: runtime.zone };
}

/**
 * The cells of a learner's line: for each item of the course one letter of what `packCell` makes of it, and beside them
 * what is left of those that are not done, by the item's index. A page carries thousands of them.
 */
export interface ProgressLine {
  id: number;
  enrolmentId: number;
  learnerId: string;
  name: string;
  group: string | null;
  figures: (string | GridFigure)[];
  cells: string;
  left: Record<number, string>;
}

function progressLine(row: ProgressRow, at: At): ProgressLine {
  const { enrolled, statuses } = row;
  return {
    id: enrolled.id,
    enrolmentId: enrolled.enrolmentId,
    learnerId: enrolled.learner_id,
    name: fullName(enrolled),
    group: enrolled.group,
    figures: gridFigures(COLUMNS, row, at),
    cells: statuses
      .map(({ state, isOverdue }) => packCell({ state: state.state, isOverdue, isByHand: state.by === 'hand' }))
      .join(''),
    left: Object.fromEntries(
      statuses.flatMap(({ state }, index) => (state.left.length > 0 ? [[index, state.left.join('; ')]] : [])),
    ),
  };
}

const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);

const COLUMNS = {
  of: ENROLLED_COLUMN,
  progress: {
    title: 'Progress',
    sort: 'progress',
    figures: {
      done: ({ done }) => done,
      required: ({ required }) => required,
      progress: ({ share }) => round(share),
      platform_progress: ({ platform }) =>
        round(platform && platform.progress !== null ? platform.progress / 100 : null),
    },
    grid: {
      title: 'Done',
      width: 92,
      cell: ({ done, required, share, platform = null }, { zone }) => {
        const says = sayPlatform(platform, { progress: share, ms: 1 }, zone);
        return says === null
          ? {
              text: share === null ? '–' : `${done}/${required} · ${Math.round(100 * share)} %`,
              hint: `${done} of ${required} required items`,
            }
          : { text: `says ${sayPercent(platform!.progress)}`, hint: says };
      },
    },
  },
  behind: {
    title: 'Behind plan',
    sort: 'behind',
    figures: {
      behind: ({ pace }) => pace.behind,
      projected_finish: ({ pace }) => (pace.finishDay === null ? null : dateOfDay(pace.finishDay)),
    },
    grid: {
      width: 78,
      first: '-',
      isWide: true,
      isShown: (rows) => rows.some(({ pace }) => pace.behind !== null),
      cell: ({ pace: { behind } }) => ({
        text: behind === null ? '–' : behind > 0 ? `${behind} behind` : behind < 0 ? `${-behind} ahead` : 'level',
        hint: sayBehind(behind),
        isBad: (behind ?? 0) >= 4,
      }),
    },
  },
  left: {
    title: 'Left',
    grid: { title: 'Course', width: 82, isWide: true, cell: ({ courseStatus: status }) => STATUS_WORDS[status] },
    figures: {
      units_left: ({ unitsLeft }) => unitsLeft,
      weeks_left: ({ weeksLeft: weeks }) => weeks,
      status: ({ courseStatus: status }) => status,
      completed_on: ({ completedAt }, { zone }) => (completedAt === null ? null : dateOfDay(dayOf(completedAt, zone))),
    },
  },
  items: {
    title: 'Items',
    figures: {
      items: ({ statuses }) =>
        Object.fromEntries(
          statuses.map(({ item, state }) => [item.externalId, { state: state.state, by: state.by, left: state.left }]),
        ),
    },
  },
} satisfies Record<string, Column<ProgressRow>>;

export const PROGRESS = {
  name: 'progress',
  path: '/courses/progress',
  query: ProgressQuery,
  columns: COLUMNS,
  line: progressLine,
  spread: {
    omits: ['items'],
    of: ({ statuses }) =>
      Object.fromEntries(
        statuses.map(({ item, state: { state, left } }) => [
          item.externalId,
          left.length === 0 ? STATE_WORDS[state] : `${STATE_WORDS[state]}: ${left.join('; ')}`,
        ]),
      ),
  },
  read: progress,
} satisfies List<ProgressRow>;

/** A course as grids need it, of one that is in view. @throws NotFound */
export async function courseOfGrid({ db }: Pick<Runtime, 'db'>, courseId: number): Promise<Course> {
  return withRaw(db, (raw) => readCourse(raw, courseId));
}
