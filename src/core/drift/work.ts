/**
 * A learner's work as drift judges it: what was due, handed in and graded by a day. A reading is made for each enrolment and
 * day, so what is known of an enrolment is laid out once, in arrays by time, and factors walk as much of them as they need.
 */

import type { KnownResult } from './work-facts';
import type { DueItem, LearnerItem, WorkFacts } from './work-facts';
import type { EnrolmentFacts } from './types';

export const NO_WORK: WorkFacts = {
  dueItems: [],
  own: [],
  handedIn: [],
  results: [],
  isPlain: true,
  tracks: [],
  doneDays: [],
  required: 0,
  passMark: 50,
  saidByPlatform: [],
};

/** Lays out what is known of an enrolment's work beside the course's assignments. */
export function layOutWork(
  dueItems: readonly DueItem[],
  own: readonly LearnerItem[],
  places: ReadonlyMap<number, number>,
  rest: Pick<WorkFacts, 'tracks' | 'doneDays' | 'required' | 'passMark' | 'saidByPlatform'>,
): WorkFacts {
  const beside = new Array<LearnerItem | null>(dueItems.length).fill(null);
  const handedIn: number[] = [];
  const results: KnownResult[] = [];
  let isPlain = true;
  for (const dueItem of own) {
    const place = places.get(dueItem.itemId);
    if (place === undefined) continue;
    beside[place] = dueItem;
    if (dueItem.handedInAt !== null) handedIn.push(place);
    if (dueItem.excusedDay !== null || dueItem.results.length > 1) isPlain = false;
    for (let i = 0; i < dueItem.results.length; i += 1) {
      const { day, share, points } = dueItem.results[i];
      results.push({ day, share, points, place, before: i === 0 ? null : dueItem.results[i - 1].share });
    }
  }
  handedIn.sort((a, b) => beside[a]!.handedInAt! - beside[b]!.handedInAt!);
  results.sort(
    (a, b) =>
      a.day - b.day || (beside[a.place]!.handedInAt ?? 0) - (beside[b.place]!.handedInAt ?? 0) || a.place - b.place,
  );
  return { dueItems, own: beside, handedIn, results, isPlain, ...rest };
}

/** Were they excused from it by a day? */
export function isExcused(own: LearnerItem | null, day: number): boolean {
  return own !== null && own.excusedDay !== null && own.excusedDay <= day;
}

/** Is an extension known by a day? */
export function isExtended(own: LearnerItem | null, day: number): own is LearnerItem {
  return own !== null && own.dueDay !== null && own.extendedDay !== null && own.extendedDay <= day;
}

/** Days of somebody's time in a course before which nothing that fell due is missing for them. */
const FIRST_DAYS = 6;

/** Did it fall due before somebody's seventh day in the course? It is overdue, as a fact, and not held against them. */
export function cameTooLateFor(dueDay: number, firstDay: number): boolean {
  return dueDay < firstDay + FIRST_DAYS;
}

/**
 * Has an assignment fallen due for them, by an extension where one is known: by the last day that hand-ins can be told of, or the
 * reading's instant where its day is not over? What is planned for a day and has no date has no minute either: it counts on its day, as it does in the plan.
 */
export function hasFallenDue(
  dueItem: DueItem,
  own: LearnerItem | null,
  { day, dueTo }: Pick<EnrolmentFacts, 'day' | 'dueTo'>,
): boolean {
  const { dueDay, dueAt } = isExtended(own, day) ? own : dueItem;
  if (dueDay === null || dueDay > dueTo.day) return false;
  return dueDay < dueTo.day || dueTo.at === null || dueAt === null || dueAt <= dueTo.at;
}

/** Was it handed in by a day? */
export function isHandedIn(own: LearnerItem | null, day: number): own is LearnerItem {
  return own !== null && own.handedInDay !== null && own.handedInDay <= day;
}

/** How many of the results were known by a day. */
function countKnown({ results }: WorkFacts, day: number): number {
  let [low, high] = [0, results.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (results[middle].day <= day) low = middle + 1;
    else high = middle;
  }
  return low;
}

/**
 * The results that counted by a day, in the order in which they were known: of each assignment the best, and none of an assignment that
 * they were excused from.
 */
export function resultsBy(work: WorkFacts, day: number): readonly KnownResult[] {
  const known = work.results.slice(0, countKnown(work, day));
  if (work.isPlain) return known;
  const last = new Map(known.map((result) => [result.place, result]));
  return known.filter((result) => last.get(result.place) === result && !isExcused(work.own[result.place], day));
}
