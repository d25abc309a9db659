/** The mean score of some people on each item of a course. */
import { itemGrades } from '@/core/grades/course-grades';
import { readCourseWork } from '@/data/completion/enrolled';
import { withRaw } from '@/data/db';
import type { View } from '@/data/view';
import type { Runtime } from '../runtime';

/** Of fewer, an average would tell of somebody. */
export const FEWEST_AVERAGED = 5;

/** In per cent, by the item's number; only of items with scores of five people or more. */
export async function itemMeans(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  courseId: number,
  learnerIds: readonly number[],
): Promise<Map<number, number>> {
  const sums = new Map<number, { sum: number; n: number }>();
  await withRaw(db, (raw) => {
    const work = readCourseWork(raw, courseId, view);
    for (const learnerId of learnerIds) {
      for (const { item, counting } of itemGrades(work.course, work.of(learnerId), view.now)) {
        if (counting === null) continue;
        const known = sums.get(item.id) ?? { sum: 0, n: 0 };
        sums.set(item.id, { sum: known.sum + 100 * counting.share, n: known.n + 1 });
      }
    }
  });
  return new Map([...sums].flatMap(([id, { sum, n }]) => (n < FEWEST_AVERAGED ? [] : [[id, sum / n] as const])));
}
