/** What drift knows of the work of a course and of one learner, laid out by time. */
import type { EvidenceKind } from './evidence';

/** An assignment of the course, as everybody has it. */
export interface DueItem {
  itemId: number;
  /** Epoch ms; null where it has no date. */
  dueAt: number | null;
  /** The day it is due, or planned by where it has no date; null for neither. */
  dueDay: number | null;
  /** From when it can be handed in; null where nobody said. */
  opensDay: number | null;
}

/** A result of an assignment: the day from which it was known, and what it came to. */
export interface DueItemResult {
  day: number;
  /** Of the points, 0 or more. */
  share: number;
  points: number;
}

/** What one learner has of an assignment. */
export interface LearnerItem {
  itemId: number;
  /** An extension's date, and the day from which it was known; null without one. */
  dueAt: number | null;
  dueDay: number | null;
  extendedDay: number | null;
  /** From when they were excused. */
  excusedDay: number | null;
  /** The first hand-in; null for none. */
  handedInAt: number | null;
  handedInDay: number | null;
  /** Results by the day they were known, each better than the one before. */
  results: readonly DueItemResult[];
}

/** A part of the plan: required items that need the same kinds of evidence to be done. */
export interface PlanTrack {
  needs: readonly EvidenceKind[];
  /** Planned days, ascending, and the days on which such items were done. */
  plan: readonly number[];
  done: readonly number[];
}

/** All of it, of one enrolment. */
export interface WorkFacts {
  dueItems: readonly DueItem[];
  /** Beside `dueItems`; null for an assignment of which there is nothing. */
  own: readonly (LearnerItem | null)[];
  /** Positions of assignments in the order in which they were handed in. */
  handedIn: readonly number[];
  results: readonly KnownResult[];
  /** Does any assignment have a better result later than its first, or an excusal? Then sums in order do not do. */
  isPlain: boolean;
  /** The plan, by what it takes to be done. */
  tracks: readonly PlanTrack[];
  /** Days on which required items were done, ascending. */
  doneDays: readonly number[];
  /** Required items that are not exempt. */
  required: number;
  /** In per cent. */
  passMark: number;
  /** Per cent done as the platform says, by the day it was said, ascending; never mixed with what is done by our own account. */
  saidByPlatform: readonly (readonly [day: number, percent: number])[];
}

/** A result in the order in which results were known. */
export interface KnownResult extends DueItemResult {
  /** The place of its assignment among the course's. */
  place: number;
  /** The share that it takes the place of; null for a first result. */
  before: number | null;
}
