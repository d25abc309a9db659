/** Kept standings of enrolments in view: for lists that are sorted and counted, where every fact would be too many. */
import type { Db } from '../db';
import { seenEnrolments, idList, type View } from '../view';

/** What is kept of an enrolment, read. */
export interface StoredProgress {
  enrolmentId: number;
  learnerId: number;
  courseId: number;
  done: number;
  required: number;
  isBegun: boolean;
  completedAt: number | null;
  plan: number[];
  openDues: number[];
  waits: number[];
  onGraded: number | null;
  ofWhole: number | null;
}

interface Row {
  enrolmentId: number;
  learnerId: number;
  courseId: number;
  done: number;
  required: number;
  begun: number;
  completed_at: number | null;
  plan: string;
  open_dues: string;
  waits: string;
  on_graded: number | null;
  of_whole: number | null;
}

const list = (json: string) => (json === '[]' ? [] : (JSON.parse(json) as number[]));

/** How many of some ascending numbers are at most a value. */
export function countUpTo(numbers: readonly number[], value: number): number {
  let count = 0;
  while (count < numbers.length && numbers[count] <= value) count += 1;
  return count;
}

/** Kept standings by the enrolment's number; one that is still to be derived is missing. */
export async function storedProgress(
  db: Db,
  view: View,
  status: 'active' | 'all' = 'active',
  learnerIds?: readonly number[],
): Promise<Map<number, StoredProgress>> {
  const rows: Row[] = await seenEnrolments(db, view, status)
    .join('enrolment_progress as s', 's.enrolment_id', 'enrolment.id')
    .modify((query) => {
      if (learnerIds) query.whereIn('enrolment.learner_id', idList(db, learnerIds));
    })
    .select(
      'enrolment.id as enrolmentId',
      'enrolment.learner_id as learnerId',
      'enrolment.course_id as courseId',
      's.done',
      's.required',
      's.begun',
      's.completed_at',
      's.plan',
      's.open_dues',
      's.waits',
      's.on_graded',
      's.of_whole',
    );
  return new Map(
    rows.map((row) => [
      row.enrolmentId,
      {
        enrolmentId: row.enrolmentId,
        learnerId: row.learnerId,
        courseId: row.courseId,
        done: row.done,
        required: row.required,
        isBegun: row.begun === 1,
        completedAt: row.completed_at,
        plan: list(row.plan),
        openDues: list(row.open_dues),
        waits: list(row.waits),
        onGraded: row.on_graded,
        ofWhole: row.of_whole,
      },
    ]),
  );
}

/** Enrolments whose kept progress is no longer what the facts give. */
export async function staleEnrolments(db: Db): Promise<Set<number>> {
  return new Set(await db('progress_stale').pluck('enrolment_id'));
}

/** The means on graded work of all who are in a course now and have one. */
export async function meansOnGraded(db: Db, courseId: number): Promise<number[]> {
  return db('enrolment_progress')
    .join('enrolment', 'enrolment.id', 'enrolment_progress.enrolment_id')
    .where('enrolment.course_id', courseId)
    .where('enrolment.status', 'active')
    .whereNotNull('enrolment_progress.on_graded')
    .pluck('enrolment_progress.on_graded');
}
