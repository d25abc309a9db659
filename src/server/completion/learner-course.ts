/** One learner in one course: every item, what it comes to, and the pace. */
import { IsNotEmpty, MaxLength } from 'class-validator';
import type { PacePoint } from '@/core/completion/pace';
import type { ItemStatus } from '@/core/completion/enrolment-progress';
import type { Course } from '@/core/completion/course';
import { sayRule } from '@/core/completion/rule';
import { categoryMean, countGrades, itemGrades, meansOfGrades, scoresInTime } from '@/core/grades/course-grades';
import { feedbackText } from '@/core/grades/feedback';
import { sayMeans, type Means } from '@/core/grades/means';
import { patternOf, type Pattern } from '@/core/grades/pattern';
import { defaultEdges, onScale, type ScoreEdges } from '@/core/grades/bands';
import { DEFAULT_SHOWN, type ShownSections } from '@/core/grades/shown';
import { countingAttempt, firstHandIn, type Counting } from '@/core/work/attempt';
import { isWork, DUE_WORDS } from '@/core/work/due';
import { STATE_WORDS } from '@/core/completion/state';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { passMarkOf } from '@/data/completion/course';
import { enrolledInView, factsOfEnrolled, type Enrolled } from '@/data/completion/enrolled';
import { attemptsShown, type ShownAttempt } from '@/data/completion/facts';
import { withRaw } from '@/data/db';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { isoOrNull, minutes } from '../request/values';
import { NotFound, readInput, type Values } from '../request/input';
import type { List } from '../request/list';
import { ListQuery, pageInOrder } from '../request/list-query';
import { openView } from '../request/view';
import type { Runtime } from '../runtime';
import { itemMeans } from '../grades/item-means';
import { addPlatform, paceOfRow, progressRow, skippedDays, type ProgressRow } from './progress-list';
import { learnersInGroup } from '@/data/people/enrolments';

/** An item on the learner's page. */
export interface ItemOfLearner extends ItemStatus {
  opens: number;
  lastOpened: number | null;
  ms: number;
  attempts: ShownAttempt[];
  counting: Counting | null;
  /** What makes it done, in words. */
  rule: string;
}

interface CategoryOfLearner {
  name: string;
  weight: number | null;
  mean: number | null;
  graded: number;
}

export interface LearnerCourse {
  enrolled: Enrolled;
  course: Course;
  passMark: number;
  edges: ScoreEdges;
  progress: ProgressRow;
  means: Means;
  /** Why the three differ. */
  saysMeans: string;
  /** The total on the course's own scale. */
  onScale: string | null;
  attendanceRate: number | null;
  categories: CategoryOfLearner[];
  pattern: Pattern | null;
  series: number[];
  items: ItemOfLearner[];
  pace: PacePoint[];
  shown: ShownSections;
}

/** A learner's course as far as it is in view. @throws NotFound */
export async function learnerCourse(
  runtime: Runtime,
  viewer: Viewer,
  learnerId: string,
  code: string,
  asOf?: string | number,
): Promise<{ view: View; page: LearnerCourse }> {
  const { db, zone } = runtime;
  const view = await openView(runtime, viewer, { course: code }, asOf);
  const id = await findLearner(db, viewer, learnerId);
  const [enrolled] = id === null ? [] : await enrolledInView(db, view, 'all', [id]);
  if (!enrolled) throw new NotFound('No such learner in this course');
  const [known] = await factsOfEnrolled(db, view, [enrolled]);
  const { course, facts } = known;
  const skipped = await skippedDays(runtime, course.id);
  const progress = progressRow(known, { now: view.now, zone, skipped });
  await addPlatform(runtime, view, [progress]);
  const grades = itemGrades(course, facts, view.now);
  const means = meansOfGrades(course, grades, facts.attendanceRate);
  const passMark = passMarkOf(course);
  const { bands, scale, shown } = course.options;
  const attempts = await withRaw(db, (raw) => attemptsShown(raw, viewer, course.id, enrolled.id, view.now));
  const page: LearnerCourse = {
    enrolled,
    course,
    passMark,
    edges: bands ?? defaultEdges(course.passMark),
    progress,
    means,
    saysMeans: sayMeans(means, countGrades(grades, course.categories)),
    onScale: onScale(means.of_whole_course, scale ?? []),
    attendanceRate: facts.attendanceRate,
    categories: course.categories.map(({ name, weight }) => ({ name, weight, ...categoryMean(grades, name) })),
    pattern: patternOf(scoresInTime(grades), passMark),
    series: scoresInTime(grades),
    items: progress.statuses.map((course_status): ItemOfLearner => {
      const { item, facts: own } = course_status;
      const opened = own.days.filter(({ opens }) => opens > 0);
      const all = attempts.get(item.id) ?? [];
      return {
        ...course_status,
        opens: opened.reduce((sum, { opens }) => sum + opens, 0),
        lastOpened: opened.at(-1)?.last ?? null,
        ms: own.days.reduce((sum, { ms }) => sum + ms, 0),
        attempts: all,
        counting: countingAttempt(all, item.points, item.policy),
        rule: sayRule(item.rule),
      };
    }),
    pace: paceOfRow(progress, course, { now: view.now, zone }),
    shown: shown ?? DEFAULT_SHOWN,
  };
  return { view, page };
}

/** The mean score on each item of those in the learner's group, in per cent, by the item; only of five or more. */
export async function groupAverages(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  { enrolled, course }: Pick<LearnerCourse, 'enrolled' | 'course'>,
): Promise<Map<number, number>> {
  return itemMeans({ db }, view, course.id, await learnersInGroup(db, course.id, enrolled.group_id));
}

const missing = { message: 'is missing' };
const long = { message: 'is too long' };

class LearnerItemsQuery extends ListQuery {
  @IsNotEmpty(missing) @MaxLength(200, long) learner!: string;
  @IsNotEmpty(missing) @MaxLength(200, long) course!: string;
}

/** @throws InvalidInput, NotFound */
async function learnerItems(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(LearnerItemsQuery, values);
  const { view, page } = await learnerCourse(runtime, viewer, query.learner, query.course);
  const { rows, next } = pageInOrder(page.items, query, ({ item }) => item.id);
  return { query, rows, total: page.items.length, next, now: view.now, zone: runtime.zone };
}

const round = (value: number) => Math.round(value * 1000) / 1000;

export const LEARNER_ITEMS = {
  name: 'learner-items',
  path: '/learners',
  query: LearnerItemsQuery,
  columns: {
    item: {
      title: 'Item',
      isKey: true,
      figures: {
        unit: ({ item }) => item.unit,
        item_id: ({ item }) => item.externalId,
        item: ({ item }) => item.title,
        kind: ({ item }) => item.kind,
        required: ({ item }) => (item.required ? 'yes' : 'no'),
      },
    },
    state: {
      title: 'State',
      figures: {
        state: ({ state }) => STATE_WORDS[state.state],
        by: ({ state }) => state.by,
        left: ({ state }) => state.left.join('; '),
        done_on: ({ state }, { zone }) => (state.doneAt === null ? null : dateOfDay(dayOf(state.doneAt, zone))),
      },
    },
    opens: {
      title: 'Opens',
      figures: {
        opens: ({ opens }) => opens,
        last_opened: ({ lastOpened }) => isoOrNull(lastOpened),
        minutes: ({ ms }) => minutes(ms),
      },
    },
    work: {
      title: 'Work',
      figures: {
        due_at: ({ dueAt }) => isoOrNull(dueAt),
        work: ({ item, dueState }) =>
          dueState === null || !isWork(item.kind, item.points) ? null : DUE_WORDS[dueState],
        submitted_at: ({ attempts }) => isoOrNull(firstHandIn(attempts)),
        attempts: ({ attempts }) => attempts.length,
      },
    },
    score: {
      title: 'Score',
      figures: {
        score: ({ counting }) => (counting === null ? null : round(counting.score)),
        points: ({ counting, item }) => counting?.points ?? item.points,
        feedback: ({ attempts }) =>
          feedbackText(attempts.findLast(({ feedback }) => feedback !== null)?.feedback ?? null),
      },
    },
  },
  read: learnerItems,
} satisfies List<ItemOfLearner>;
