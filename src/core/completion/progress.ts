/** What the states of a course's items come to for one learner. */
import type { ItemState, StateOfItem } from './state';

/** A course's status for one learner. */
export const COURSE_STATUSES = ['not_started', 'under_way', 'completed', 'certified'] as const;
export type CourseStatus = (typeof COURSE_STATUSES)[number];

export const STATUS_WORDS: Record<CourseStatus, string> = {
  not_started: 'not started',
  under_way: 'under way',
  completed: 'completed',
  certified: 'certified',
};

export interface ProgressItem {
  required: boolean;
  unitId: number | null;
  state: Pick<StateOfItem, 'state' | 'doneAt'>;
}

export interface Progress {
  done: number;
  /** Required items that are not exempt. */
  required: number;
  /** Done of required, 0–1; null where nothing is required. */
  share: number | null;
  /** When the last required item was done, epoch ms; null while one is left or nothing is required. */
  completedAt: number | null;
  /** Has anything been begun, required or not? */
  isBegun: boolean;
}

const isBegun = (state: ItemState) => state === 'started' || state === 'done';

/** Progress = done required items / required items not exempt. */
export function progressOf(items: readonly ProgressItem[]): Progress {
  const counted = items.filter((item) => item.required && item.state.state !== 'exempt');
  const done = counted.filter((item) => item.state.state === 'done');
  const isWhole = counted.length > 0 && done.length === counted.length;
  return {
    done: done.length,
    required: counted.length,
    share: counted.length === 0 ? null : done.length / counted.length,
    completedAt: isWhole ? Math.max(...done.map((item) => item.state.doneAt ?? 0)) : null,
    isBegun: items.some((item) => isBegun(item.state.state)),
  };
}

/**
 * The course's status: completed when everything required is done, certified where the course has a pass mark and the
 * total reaches it.
 *
 * @param total of the whole course, in per cent; null where nothing is graded
 */
export function courseStatus(
  { completedAt, isBegun: begun }: Pick<Progress, 'completedAt' | 'isBegun'>,
  passMark: number | null,
  total: number | null,
): CourseStatus {
  if (completedAt === null) return begun ? 'under_way' : 'not_started';
  return passMark !== null && total !== null && total >= passMark ? 'certified' : 'completed';
}

/** Units with something required in them that is not done, of so many, and how many should be behind them by plan. */
export interface Milestones {
  units: number;
  left: number;
  planned: number;
}

/** @param plan the planned day of each item, in the same order */
export function milestonesOf(
  items: readonly ProgressItem[],
  plan: readonly (number | null)[],
  today: number,
): Milestones {
  const units = new Map<number, { open: boolean; last: number | null }>();
  items.forEach(({ required, unitId, state }, index) => {
    if (!required || unitId === null || state.state === 'exempt') return;
    const unit = units.get(unitId) ?? { open: false, last: -Infinity };
    const day = plan[index];
    units.set(unitId, {
      open: unit.open || state.state !== 'done',
      last: day === null || unit.last === null ? null : Math.max(unit.last, day),
    });
  });
  const all = [...units.values()];
  return {
    units: all.length,
    left: all.filter(({ open }) => open).length,
    planned: all.filter(({ last }) => last !== null && last <= today).length,
  };
}
