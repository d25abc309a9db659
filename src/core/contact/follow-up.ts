/** What somebody promised to look at again: in which state it is. */
import { bandWord, combine, type BandEdges } from '../drift/bands';
import type { Band } from '../drift/bands';

export const FOLLOW_UP_STATES = ['came_back', 'overdue', 'due_today', 'waiting', 'later'] as const;
export type FollowUpState = (typeof FOLLOW_UP_STATES)[number];

export const FOLLOW_UP_WORDS: Record<FollowUpState, string> = {
  came_back: 'came back',
  overdue: 'overdue',
  due_today: 'due today',
  waiting: 'waiting for an answer',
  later: 'later',
};

/** How a follow-up may end, each with the key that ends it so. */
export const OUTCOMES = {
  came_back: { key: '1', says: 'Came back' },
  agreed: { key: '2', says: 'Agreed on a next step' },
  not_reached: { key: '3', says: 'Could not be reached' },
  left: { key: '4', says: 'Is leaving the course' },
  not_needed: { key: '5', says: 'No longer needed' },
} as const;
export type Outcome = keyof typeof OUTCOMES;
export const OUTCOME_NAMES = Object.keys(OUTCOMES) as Outcome[];

export interface FollowUpFacts {
  dueDay: number;
  createdAt: number;
  /** The learner's first event after it was made; null when there is none. */
  firstAfter: number | null;
  /** The latest contact attempt since it was made, or together with it. */
  attemptAt: number | null;
  /** The latest answer of theirs since. */
  answerAt: number | null;
}

/**
 * The state of an open follow-up: that they came back is told first, then what its day says.
 * One whose day is still to come waits for an answer when somebody tried to reach them and
 * nothing came since.
 */
export function followUpState(facts: FollowUpFacts, today: number): FollowUpState {
  if (facts.firstAfter !== null) return 'came_back';
  if (facts.dueDay < today) return 'overdue';
  if (facts.dueDay === today) return 'due_today';
  const { attemptAt, answerAt } = facts;
  return attemptAt !== null && (answerAt === null || answerAt < attemptAt) ? 'waiting' : 'later';
}

/** What the drift of one course said when a follow-up was made. */
interface CourseSnapshot {
  courseId: number;
  score: number | null;
  band: Band | null;
  says: string[];
}

/** What is kept with a follow-up: the drift of every course the learner was in. */
export interface StoredSnapshot {
  courses: CourseSnapshot[];
  /** Where slipping and adrift began, if it was not where they do by default. */
  edges?: BandEdges;
}

/** What of it a reader sees. */
export interface Snapshot {
  drift: number | null;
  band: string;
  says: string[];
}

/** Reasons told of one learner. */
const REASONS_TOLD = 4;

/** A follow-up's drift over the courses that its reader sees of the learner. */
export function snapshotFor({ courses, edges }: StoredSnapshot, seen: readonly number[]): Snapshot {
  const coursesSeen = courses.filter(({ courseId }) => seen.includes(courseId));
  const { score, band } = combine(coursesSeen, edges);
  return {
    drift: score,
    band: bandWord(band),
    says: [...new Set(coursesSeen.flatMap(({ says }) => says))].slice(0, REASONS_TOLD),
  };
}
