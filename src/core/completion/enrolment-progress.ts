/** Where an enrolment stands in its course: what is kept of it, so that lists need not work it out. */
import type { CourseItem, Course, LearnerFacts } from './course';
import { itemGrades, meansOfGrades } from '../grades/course-grades';
import type { Means } from '../grades/means';
import { firstHandIn, waitsSince } from '../work/attempt';
import { dueOf, isOverdue, isWork, dueStateOf, type DueState } from '../work/due';
import { groupBy } from '../group-by';
import { dayOf } from '../time/zone';
import { progressOf, type Progress } from './progress';
import { planOf } from './pace';
import type { EvidenceKind } from '../drift/evidence';
import type { PlanTrack } from '../drift/work-facts';
import { evidenceNeeded } from './rule';
import { NOTHING_KNOWN, stateOfItem, type ItemFacts, type StateOfItem } from './state';

export interface ItemStatus {
  item: CourseItem;
  facts: ItemFacts;
  state: StateOfItem;
  /** An extension's date, else the item's own. */
  dueAt: number | null;
  /** Where an assignment with a due date stands; null for anything else. */
  dueState: DueState | null;
  isOverdue: boolean;
}

/** Where a learner stands with every item of a course, in outline order. */
export function itemStatuses(course: Course, facts: LearnerFacts, now: number): ItemStatus[] {
  return course.items.map((item): ItemStatus => {
    const itemFacts = facts.items.get(item.id) ?? NOTHING_KNOWN;
    const state = stateOfItem(item, itemFacts);
    const dueAt = dueOf(item, facts.extensions);
    const isExempt = state.state === 'exempt';
    const dueState =
      dueAt !== null && isWork(item.kind, item.points)
        ? dueStateOf({ attempts: itemFacts.attempts, dueAt, isExempt, now })
        : null;
    return {
      item,
      facts: itemFacts,
      state,
      dueAt,
      dueState,
      isOverdue: dueState !== null && isOverdue(dueState, dueAt!, now),
    };
  });
}

/** Progress over a course's items. */
export function progressOfItems(statuses: readonly ItemStatus[]): Progress {
  return progressOf(statuses.map(({ item, state }) => ({ required: item.required, unitId: item.unitId, state })));
}

/** The planned day of each item: an extension moves what has a date. */
export function planOfItems(
  course: Course,
  statuses: readonly ItemStatus[],
  enrolledDay: number,
  zone: string,
): (number | null)[] {
  const items = statuses.map(({ item, dueAt, state }) => ({
    required: item.required && state.state !== 'exempt',
    dueDay: dueAt === null ? null : dayOf(dueAt, zone),
  }));
  return planOf(items, course, enrolledDay);
}

/**
 * A learner's work as drift reads it, one entry for each item of which there is something: the item, the date and the
 * instant of an extension, the instant of an excusal, and of each attempt when it was handed in and graded, its share of
 * the points and the points.
 */
export type StoredWork = [
  itemId: number,
  dueAt: number | null,
  extendedAt: number | null,
  excusedAt: number | null,
  attempts: [submittedAt: number | null, gradedAt: number | null, share: number | null, points: number][],
][];

/** What is kept of an enrolment. */
export interface EnrolmentProgress {
  done: number;
  required: number;
  isBegun: boolean;
  completedAt: number | null;
  /** Days on which required items were done, ascending. */
  doneDays: number[];
  /** Planned days of required items that are not exempt, ascending. */
  plan: number[];
  /** The same and the days on which they were done, by the kinds of evidence that they need. */
  tracks: PlanTrack[];
  /** Dates of work that is not handed in, ascending: those that have passed are overdue. */
  openDues: number[];
  /** Since when each piece waits for us, ascending. */
  waits: number[];
  means: Pick<Means, 'on_graded_work' | 'of_whole_course'>;
  work: StoredWork;
  /** Units of which everything required is done, each with the instant of the last of it, in outline order. */
  unitsDone: [unitId: number, at: number][];
}

const ascending = (values: number[]) => values.sort((a, b) => a - b);

/** Is an item an assignment that drift goes by? A unit's check says what is known, not how somebody is doing. */
export function isDriftWork({ kind, points, stage }: Pick<CourseItem, 'kind' | 'points' | 'stage'>): boolean {
  return stage === null && isWork(kind, points);
}

function storedWork(course: Course, facts: LearnerFacts): StoredWork {
  const kept: StoredWork = [];
  for (const item of course.items) {
    if (!isDriftWork(item)) continue;
    const itemFacts = facts.items.get(item.id);
    const extension = facts.extensions.get(item.id);
    const attempts = (itemFacts?.attempts ?? [])
      .filter(({ dismissed_at }) => dismissed_at === null)
      .map((one): StoredWork[number][4][number] => {
        const points = one.points ?? item.points ?? 0;
        const share = one.score === null || points <= 0 ? null : one.score / points;
        return [one.submitted_at, one.graded_at ?? (share === null ? null : one.submitted_at), share, points];
      });
    const excused = itemFacts?.override?.state === 'exempt' ? itemFacts.override.at : (itemFacts?.excusedAt ?? null);
    if (attempts.length > 0 || extension || excused !== null)
      kept.push([item.id, extension?.dueAt ?? null, extension?.at ?? null, excused, attempts]);
  }
  return kept;
}

/** Units of which everything required that is not exempt is done, with when the last of it was. */
function unitsDoneOf(statuses: readonly ItemStatus[]): [unitId: number, at: number][] {
  const counted = statuses.filter(
    ({ item, state }) => item.required && item.unitId !== null && state.state !== 'exempt',
  );
  return [...groupBy(counted, ({ item }) => item.unitId!)].flatMap(([unitId, own]): [number, number][] =>
    own.every(({ state }) => state.state === 'done')
      ? [[unitId, Math.max(...own.map(({ state }) => state.doneAt ?? 0))]]
      : [],
  );
}

/** The plan of an enrolment and what was done of it, apart by the evidence that it takes. */
function tracksOf(statuses: readonly ItemStatus[], planned: readonly (number | null)[], zone: string): PlanTrack[] {
  const tracks = new Map<string, { needs: EvidenceKind[]; plan: number[]; done: number[] }>();
  for (const [index, { item, state }] of statuses.entries()) {
    if (!item.required || (planned[index] === null && state.doneAt === null)) continue;
    const needs = evidenceNeeded(item.rule);
    const key = needs.join();
    let track = tracks.get(key);
    if (!track) tracks.set(key, (track = { needs, plan: [], done: [] }));
    if (planned[index] !== null) track.plan.push(planned[index]);
    if (state.doneAt !== null) track.done.push(dayOf(state.doneAt, zone));
  }
  return [...tracks.values()].map(({ needs, plan, done }) => ({ needs, plan: ascending(plan), done: ascending(done) }));
}

/**
 * When a learner's facts give evidence, kind by kind: what is told of hand-ins, grades, shares watched and items marked as
 * done. Visits and deeds are told by the log's days, sessions by themselves.
 *
 * @param note called with a kind and an instant for everything there is, more than once for the same
 */
export function noteEvidence(
  course: Course,
  { items }: LearnerFacts,
  note: (kind: EvidenceKind, at: number) => void,
): void {
  for (const item of course.items) {
    const itemFacts = items.get(item.id);
    if (!itemFacts) continue;
    for (const { submitted_at, graded_at, score } of itemFacts.attempts) {
      if (submitted_at !== null) note('hand_ins', submitted_at);
      const at = score === null ? null : (graded_at ?? submitted_at);
      if (at !== null) note('grades', at);
    }
    for (const [at] of itemFacts.progress ?? []) note('watched', at);
    if (itemFacts.override?.state === 'done') note('by_hand', itemFacts.override.at);
  }
}

/** What is kept of an enrolment, from all that is known of it. `now` is of no account: what hangs on it is kept as dates. */
export function enrolmentProgress(
  course: Course,
  facts: LearnerFacts,
  enrolledDay: number,
  zone: string,
): EnrolmentProgress {
  const statuses = itemStatuses(course, facts, 0);
  const progress = progressOfItems(statuses);
  const planned = planOfItems(course, statuses, enrolledDay, zone);
  const means = meansOfGrades(course, itemGrades(course, facts, 0), facts.attendanceRate);
  return {
    done: progress.done,
    required: progress.required,
    isBegun: progress.isBegun,
    completedAt: progress.completedAt,
    doneDays: ascending(
      statuses.flatMap(({ item, state }) =>
        item.required && state.doneAt !== null ? [dayOf(state.doneAt, zone)] : [],
      ),
    ),
    plan: ascending(planned.filter((day) => day !== null)),
    tracks: tracksOf(statuses, planned, zone),
    openDues: ascending(
      statuses.flatMap(({ dueState, dueAt, facts: own }) => {
        const isOpen =
          dueState !== null && dueState !== 'exempt' && dueState !== 'graded' && firstHandIn(own.attempts) === null;
        return isOpen ? [dueAt!] : [];
      }),
    ),
    waits: ascending(statuses.flatMap(({ facts: own }) => waitsSince(own.attempts) ?? [])),
    means: { on_graded_work: means.on_graded_work, of_whole_course: means.of_whole_course },
    work: storedWork(course, facts),
    unitsDone: unitsDoneOf(statuses),
  };
}
