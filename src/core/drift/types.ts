import type { BandEdges } from './bands';
import type { DayRange } from './counted-days';
import type { EvidenceKind } from './evidence';
import type { Said, Sentence } from './sentence';
import type { WorkFacts } from './work-facts';

/** Days with working or talking events, and how many of each. */
type DayEfforts = readonly (readonly [day: number, worked: number, talked: number])[];

/** Sessions that count, in time order: the day from which it is known, and what it was worth. */
export type SessionCredits = readonly (readonly [day: number, credit: number])[];

/** What a reader of facts gives of one enrolment, by the kind of fact. */
export interface FactsByKind {
  /** From the log, day by day. */
  days: {
    /** Days with at least one event in this course, ascending. */
    activeDays: readonly number[];
    /** Working and talking events in this course by day, ascending. */
    efforts: DayEfforts;
  };
  /** From rolls, and from presence where there is no roll. */
  sessions: SessionCredits;
  /** What was due, handed in and graded, and what was done of the plan. */
  work: WorkFacts;
}

/** A kind of fact: what one reader reads, and several factors may need. */
export type FactKind = keyof FactsByKind;

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
  /** Working and talking events in this course by day, ascending; those after `day` are passed over. */
  efforts: DayEfforts;
  /** Sessions that count; those known after `day` are passed over. */
  sessions: SessionCredits;
  /** Work of all days; what was not known by `day` is passed over. */
  work: WorkFacts;
  /** Breaks, agreed absences and feed gaps together, disjoint and in order. */
  skipped: readonly DayRange[];
  /** Feed gaps alone, disjoint and in order. */
  feedGaps: readonly DayRange[];
  /** Kinds of evidence that the course does not tell of, or no longer: they judge nobody. */
  untold: ReadonlySet<EvidenceKind>;
  /** The last day that the log can tell of: `day`, or the day on which the log stopped. */
  toldTo: number;
  /**
   * Up to when hand-ins can be told of, and so what may be taken to have fallen due: a day, and an instant on it where the day
   * was not over. Results may tell of them when the log is silent.
   */
  dueTo: { day: number; at: number | null };
}

/** How bad one factor is, and why. */
export interface Assessment {
  /** 0 (fine) to 1 (as bad as it gets). */
  value: number;
  says: Sentence;
}

/** A weight at the course's beginning and at its end; in between it goes in a straight line. */
export interface Weight {
  early: number;
  late: number;
}

/**
 * One way of drifting: all there is to know of it stands here. What it needs is read because it says so.
 *
 * @typeParam Group what is worked out once of the whole group for a day, such as a median
 */
export interface Factor<Group = unknown> {
  /** As the database and the API name it. */
  name: string;
  /** What its reasons are called on a screen. */
  title: string;
  /** Said where there was nothing to judge by. */
  notCounted: string;
  /** What it weighs where nobody has set anything else. */
  weight: Weight;
  /** What has to be read for it. */
  needs: readonly FactKind[];
  /** What kind of evidence it goes by: without any in the course it judges nobody. Null where it sees to that itself. */
  evidence: EvidenceKind | null;
  /** Its sentences, by name, put into words from their numbers. */
  words: Record<string, (sentence: never) => Said>;
  /** What is worked out of all members at the end of a day. */
  ofGroup?(members: readonly EnrolmentFacts[]): Group;
  /** Null when there is nothing to judge by. */
  assess(facts: EnrolmentFacts, group: Group): Assessment | null;
}

/** What drift is read by: every part of it may be another for a course, or for a replay of the past. */
export interface Model {
  factors: readonly Factor[];
  /** By the factor's name; one that is not named has its own. */
  weights: Readonly<Record<string, Weight>>;
  edges: BandEdges;
}

/** A part of the score. Points of all reasons add up to the score exactly. */
export interface Reason {
  /** A factor's name. */
  factor: string;
  value: number;
  points: number;
  says: Sentence;
}

/** Why there is no reading: everything is done, it is too early, the log has a gap, or there is too little to judge by. */
export type NoReading = 'finished' | 'early' | 'blind' | 'little';

export interface Reading {
  /** 0–100, or null: no reading. */
  score: number | null;
  /** Null where there is one. */
  without: NoReading | null;
  reasons: Reason[];
  /** Names of the factors there was nothing to judge by. */
  notCounted: string[];
  /** Those of them of which the course tells nothing of anybody. */
  untold: string[];
  /** The day on which the log stopped, where the reading stands as it stood then. */
  stoodOn: number | null;
}
