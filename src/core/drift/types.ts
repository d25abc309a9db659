import type { Sentence } from './sentences';
import type { DayRange } from './counted-days';

/** Days with talking or working events, and how many. */
export type DayEfforts = readonly (readonly [day: number, events: number])[];

/** What is known of one enrolment at the end of reading day `day`, and nothing later. */
export interface EnrolmentFacts {
  /** The day of the reading. */
  day: number;
  enrolledDay: number;
  /** Null when the course has no such date. */
  courseStart: number | null;
  courseEnd: number | null;
  /** Days with at least one event in this course, ascending, none after `day`. */
  activeDays: readonly number[];
  /** Talking and working events in this course by day, ascending; those after `day` are passed over. */
  efforts: DayEfforts;
  /** Breaks, agreed absences and feed gaps together, disjoint and in order. */
  skipped: readonly DayRange[];
  /** Feed gaps alone, disjoint and in order. */
  feedGaps: readonly DayRange[];
}

/** What is known of the learner's group at that day. */
export interface GroupFacts {
  /** Median of the learners' 75th-percentile gaps; null when none has one. */
  gap: number | null;
  /** Median of the learners' talking and working events over 28 counted days; null of an empty group. */
  efforts: number | null;
}

export type FactorName = 'quiet' | 'fading' | 'sessions' | 'overdue' | 'silent' | 'grade' | 'pace';

/** How bad one factor is, and why. */
export interface Assessment {
  /** 0 (fine) to 1 (as bad as it gets). */
  value: number;
  says: Sentence;
}

/** One way of drifting. Returns null when there is nothing to judge by. */
export interface Factor {
  name: FactorName;
  assess(facts: EnrolmentFacts, group: GroupFacts): Assessment | null;
}

export type ReasonName = FactorName | 'never_accessed' | 'long_quiet';

/** A part of the score. Points of all reasons add up to the score exactly. */
export interface Reason {
  factor: ReasonName;
  value: number;
  points: number;
  says: Sentence;
}

export interface Reading {
  /** 0–100, or null: no reading. */
  score: number | null;
  reasons: Reason[];
  /** Factors there was nothing to judge by. */
  notCounted: FactorName[];
}

/** 0 on course, 1 slipping, 2 adrift. */
export type Band = 0 | 1 | 2;
