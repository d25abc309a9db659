/** Who stands before and after somebody in the list one came from. */
import type { Viewer } from '@/data/scope';
import { GRADES, gradesOrder } from '../grades/grades-list';
import { InvalidInput, NotFound } from '../request/input';
import { askedOf, listParams, type List } from '../request/list';
import type { Runtime } from '../runtime';
import { workDue, WORK_DUE } from '../work/work-due-list';
import { PROGRESS, progressOrder } from './progress-list';

interface One {
  learnerId: string;
  course: string;
  enrolmentId: number;
}

export interface Neighbours {
  position: number;
  of: number;
  previous: One | null;
  next: One | null;
}

type Order = (runtime: Runtime, viewer: Viewer, values: Record<string, string>) => Promise<One[]>;

const one = ({
  learner_id,
  course,
  enrolmentId,
}: {
  learner_id: string;
  course: string;
  enrolmentId: number;
}): One => ({
  learnerId: learner_id,
  course,
  enrolmentId,
});

const ORDERS: Record<string, { list: List<never>; order: Order }> = {
  '/courses/progress': {
    list: PROGRESS as unknown as List<never>,
    order: async (...asked) => (await progressOrder(...asked)).all.map(one),
  },
  '/courses/grades': {
    list: GRADES as unknown as List<never>,
    order: async (...asked) => (await gradesOrder(...asked)).all.map(one),
  },
  '/courses/work-due': {
    list: WORK_DUE as unknown as List<never>,
    order: async (runtime, viewer, values) => {
      const { rows } = await workDue(runtime, viewer, { ...values, format: 'csv' });
      return [...new Map(rows.map(({ enrolled }) => [enrolled.enrolmentId, one(enrolled)])).values()];
    },
  },
};

/**
 * One's place in a list whose address is given; where that list is none of these, or is no more, in the course by name.
 */
export async function neighboursOf(
  runtime: Runtime,
  viewer: Viewer,
  from: string,
  course: string,
  enrolmentId: number,
): Promise<Neighbours> {
  const url = new URL(from, 'http://list');
  const known = ORDERS[url.pathname];
  const params = Object.fromEntries(url.searchParams);
  const orders = [
    ...(known ? [() => known.order(runtime, viewer, askedOf(known.list, listParams(known.list, params)))] : []),
    async () => (await progressOrder(runtime, viewer, { course })).all.map(one),
  ];
  for (const order of orders) {
    const all = await order().catch((error: unknown) => {
      // A link may be older than what it names.
      if (error instanceof InvalidInput || error instanceof NotFound) return [];
      throw error;
    });
    const index = all.findIndex((row) => row.enrolmentId === enrolmentId);
    if (index >= 0)
      return { position: index + 1, of: all.length, previous: all[index - 1] ?? null, next: all[index + 1] ?? null };
  }
  return { position: 0, of: 0, previous: null, next: null };
}
