/** A learner's grades in a course, item by item. */
import type { Course, CourseItem, LearnerFacts } from '../completion/course';
import { NOTHING_KNOWN } from '../completion/state';
import { countingAttempt, firstHandIn, type Attempt, type Counting } from '../work/attempt';
import { dueOf, isOverdue, isWork, dueStateOf, type DueState } from '../work/due';
import { meansOf, type Category, type GradedItem, type Means } from './means';

/** What the grades of a learner hang on: attempts and who is excused, whatever else is known. */
export type GradeFacts = Pick<LearnerFacts, 'items' | 'extensions' | 'attendanceRate'>;

/** Where a learner stands with an item's grade. */
export interface ItemGrade {
  item: CourseItem;
  attempts: readonly Attempt[];
  counting: Counting | null;
  /** An extension's date, else the item's own. */
  dueAt: number | null;
  isExempt: boolean;
  /** Of an assignment with a due date. */
  dueState: DueState | null;
  isOverdue: boolean;
}

/** Grades of every item of a course that is work or has a result, in outline order. */
export function itemGrades(course: Course, facts: GradeFacts, now: number): ItemGrade[] {
  const grades: ItemGrade[] = [];
  for (const item of course.items) {
    const itemFacts = facts.items.get(item.id) ?? NOTHING_KNOWN;
    const counting = countingAttempt(itemFacts.attempts, item.points, item.policy);
    const isWorkItem = isWork(item.kind, item.points);
    if (counting === null && !isWorkItem) continue;
    const dueAt = dueOf(item, facts.extensions);
    const isExempt =
      itemFacts.override?.state !== 'done' && (itemFacts.override?.state === 'exempt' || itemFacts.excusedAt !== null);
    const dueState =
      dueAt === null || !isWorkItem ? null : dueStateOf({ attempts: itemFacts.attempts, dueAt, isExempt, now });
    const isPastDue = dueState !== null && isOverdue(dueState, dueAt!, now);
    grades.push({ item, attempts: itemFacts.attempts, counting, dueAt, isExempt, dueState, isOverdue: isPastDue });
  }
  return grades;
}

function gradedItem({ item, counting, isExempt, isOverdue }: ItemGrade): GradedItem {
  return {
    category: item.category,
    points: item.points,
    share: counting?.share ?? null,
    resultPoints: counting?.points ?? null,
    isOverdue,
    isExempt,
  };
}

/** The three means of a learner in a course. */
export function meansOfGrades(course: Course, grades: readonly ItemGrade[], attendanceRate: number | null): Means {
  const { attendance: counted } = course.options;
  const attendance = counted ? { weight: counted.weight, rate: attendanceRate } : null;
  return meansOf(grades.map(gradedItem), course.categories, attendance);
}

/** How many pieces each of the means rests on; where categories have weights, those of none of them count for nothing. */
export function countGrades(
  grades: readonly ItemGrade[],
  categories: readonly Category[],
): { graded: number; overdue: number; toCome: number } {
  const weighed = new Set(categories.filter(({ weight }) => (weight ?? 0) > 0).map(({ name }) => name));
  const counts = ({ category }: CourseItem) => weighed.size === 0 || (category !== null && weighed.has(category));
  const counted = grades.filter(({ isExempt, item }) => !isExempt && counts(item));
  const graded = counted.filter(({ counting }) => counting !== null).length;
  const overdue = counted.filter((one) => one.counting === null && one.isOverdue).length;
  return { graded, overdue, toCome: counted.length - graded - overdue };
}

/**
 * Shares in per cent in the order in which they were handed in, of one category or of all. A unit's check at its beginning
 * is low because it is one, so checks stay out.
 */
export function scoresInTime(grades: readonly ItemGrade[], category?: string): number[] {
  return grades
    .filter(
      ({ counting, isExempt, item }) =>
        counting !== null && !isExempt && item.stage === null && (category === undefined || item.category === category),
    )
    .sort((a, b) => (timeOf(a) ?? 0) - (timeOf(b) ?? 0))
    .map(({ counting }) => 100 * counting!.share);
}

function timeOf({ counting, attempts }: ItemGrade): number | null {
  return firstHandIn(attempts) ?? counting!.at;
}

/** A category's mean on graded work, in per cent. */
export function categoryMean(grades: readonly ItemGrade[], category: string): { mean: number | null; graded: number } {
  let [earned, points, graded] = [0, 0, 0];
  for (const { item, counting, isExempt } of grades) {
    if (item.category !== category || counting === null || isExempt) continue;
    const outOf = item.points ?? counting.points;
    earned += counting.share * outOf;
    points += outOf;
    graded += 1;
  }
  return { mean: points === 0 ? null : (100 * earned) / points, graded };
}
