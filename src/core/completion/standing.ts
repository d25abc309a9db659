/** Where an enrolment stands in its course: what is kept of it, so that lists need not work it out. */
import { itemGrades, meansOfGrades } from '../grades/course-grades';
import type { Category, Means } from '../grades/means';
import { firstHandIn, waitsSince } from '../work/attempt';
import { dueOf, isOwed, isWork, owedState, type OwedState } from '../work/owed';
import { dayOf } from '../time/zone';
import type { ItemKind, Stage } from '../courses/item-kinds';
import { headwayOf, type Headway } from './headway';
import { planOf } from './pace';
import { NOTHING_KNOWN, stateOfItem, type ItemFacts, type RuledItem, type StateOfItem } from './state';

/** An item of a course, as completion, work and grades need it. */
export interface CourseItem extends RuledItem {
  id: number;
  externalId: string;
  title: string;
  kind: ItemKind;
  unitId: number | null;
  unit: string | null;
  required: boolean;
  opensAt: number | null;
  dueAt: number | null;
  category: string | null;
  must: boolean;
  stage: Stage | null;
  url: string | null;
}

/** A course with its items, in outline order. */
export interface Course {
  id: number;
  code: string;
  title: string;
  /** Days; null where the course has none. */
  start: number | null;
  end: number | null;
  /** In per cent. */
  passMark: number | null;
  items: readonly CourseItem[];
  categories: readonly Category[];
  /** Attendance as a category; null where it is none. */
  attendance: { title: string; weight: number } | null;
  /** Are there results? Without any, hand-ins are those of the log. */
  hasResults: boolean;
}

/** An extension of one learner for one item. */
export interface Extension {
  /** Null for an excusal alone. */
  dueAt: number | null;
  isExcused: boolean;
  reason: string;
  at: number;
  by: string | null;
}

/** All that is known of a learner in a course, by the item's id. */
export interface LearnerFacts {
  items: ReadonlyMap<number, ItemFacts>;
  extensions: ReadonlyMap<number, Extension>;
  /** Hand-ins that only the log tells of: the first of each item. */
  logged: ReadonlyMap<number, number>;
  /** 0–1; null while nothing is counted. */
  attendanceRate: number | null;
}

export interface ItemStanding {
  item: CourseItem;
  facts: ItemFacts;
  state: StateOfItem;
  /** An extension's date, else the item's own. */
  dueAt: number | null;
  /** Where a piece of work with a due date stands; null for anything else. */
  owed: OwedState | null;
  isOwed: boolean;
}

/** Where a learner stands with every item of a course, in outline order. */
export function standingsOf(course: Course, facts: LearnerFacts, now: number): ItemStanding[] {
  return course.items.map((item): ItemStanding => {
    const own = facts.items.get(item.id) ?? NOTHING_KNOWN;
    const state = stateOfItem(item, own);
    const dueAt = dueOf(item, facts.extensions);
    const isExempt = state.state === 'exempt';
    const owed =
      dueAt !== null && isWork(item.kind, item.points)
        ? owedState({ attempts: own.attempts, dueAt, isExempt, now })
        : null;
    return { item, facts: own, state, dueAt, owed, isOwed: owed !== null && isOwed(owed, dueAt!, now) };
  });
}

/** Headway over a course's items. */
export function headwayOfStandings(standings: readonly ItemStanding[]): Headway {
  return headwayOf(standings.map(({ item, state }) => ({ required: item.required, unitId: item.unitId, state })));
}

/** The planned day of each item: an extension moves what has a date. */
export function planOfStandings(
  course: Course,
  standings: readonly ItemStanding[],
  enrolledDay: number,
  zone: string,
): (number | null)[] {
  const items = standings.map(({ item, dueAt, state }) => ({
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
export type KeptWork = [
  itemId: number,
  dueAt: number | null,
  extendedAt: number | null,
  excusedAt: number | null,
  attempts: [submittedAt: number | null, gradedAt: number | null, share: number | null, points: number][],
][];

/** What is kept of an enrolment. */
export interface Standing {
  done: number;
  required: number;
  isBegun: boolean;
  completedAt: number | null;
  /** Days on which required items were done, ascending. */
  doneDays: number[];
  /** Planned days of required items that are not exempt, ascending. */
  plan: number[];
  /** Dates of work that is not handed in, ascending: those that have passed are overdue. */
  openDues: number[];
  /** Since when each piece waits for us, ascending. */
  waits: number[];
  means: Pick<Means, 'on_graded_work' | 'of_whole_course'>;
  work: KeptWork;
}

const ascending = (values: number[]) => values.sort((a, b) => a - b);

/** Is an item a piece of work that drift goes by? A unit's check says what is known, not how somebody is doing. */
export function isPiece({ kind, points, stage }: Pick<CourseItem, 'kind' | 'points' | 'stage'>): boolean {
  return stage === null && isWork(kind, points);
}

function keptWork(course: Course, facts: LearnerFacts): KeptWork {
  const kept: KeptWork = [];
  for (const item of course.items) {
    if (!isPiece(item)) continue;
    const own = facts.items.get(item.id);
    const extension = facts.extensions.get(item.id);
    const attempts = (own?.attempts ?? [])
      .filter(({ dismissed_at }) => dismissed_at === null)
      .map((one): KeptWork[number][4][number] => {
        const points = one.points ?? item.points ?? 0;
        const share = one.score === null || points <= 0 ? null : one.score / points;
        return [one.submitted_at, one.graded_at ?? (share === null ? null : one.submitted_at), share, points];
      });
    const logged = facts.logged.get(item.id);
    if (!course.hasResults && logged !== undefined) attempts.push([logged, null, null, item.points ?? 0]);
    const excused = own?.mark?.state === 'exempt' ? own.mark.at : (own?.excusedAt ?? null);
    if (attempts.length > 0 || extension || excused !== null)
      kept.push([item.id, extension?.dueAt ?? null, extension?.at ?? null, excused, attempts]);
  }
  return kept;
}

/** What is kept of an enrolment, from all that is known of it. `now` is of no account: what hangs on it is kept as dates. */
export function standingOf(course: Course, facts: LearnerFacts, enrolledDay: number, zone: string): Standing {
  const standings = standingsOf(course, facts, 0);
  const headway = headwayOfStandings(standings);
  const plan = planOfStandings(course, standings, enrolledDay, zone).filter((day) => day !== null);
  const means = meansOfGrades(course, itemGrades(course, facts, 0), facts.attendanceRate);
  return {
    done: headway.done,
    required: headway.required,
    isBegun: headway.isBegun,
    completedAt: headway.completedAt,
    doneDays: ascending(
      standings.flatMap(({ item, state }) =>
        item.required && state.doneAt !== null ? [dayOf(state.doneAt, zone)] : [],
      ),
    ),
    plan: ascending(plan),
    openDues: ascending(
      standings.flatMap(({ owed, dueAt, facts: own }) => {
        const isOpen = owed !== null && owed !== 'exempt' && owed !== 'graded' && firstHandIn(own.attempts) === null;
        return isOpen ? [dueAt!] : [];
      }),
    ),
    waits: ascending(standings.flatMap(({ facts: own }) => waitsSince(own.attempts) ?? [])),
    means: { on_graded_work: means.on_graded_work, of_whole_course: means.of_whole_course },
    work: keptWork(course, facts),
  };
}
