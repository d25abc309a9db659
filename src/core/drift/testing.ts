/** What the tests of drift have in common. */
import type { EnrolmentFacts } from './types';
import { NO_WORK } from './work';

/** An enrolment on its hundredth day, with nothing done. */
export const facts = (more: Partial<EnrolmentFacts> = {}): EnrolmentFacts => ({
  day: 100,
  work: NO_WORK,
  enrolledDay: 0,
  courseStart: 0,
  courseEnd: 120,
  activeDays: [],
  efforts: [],
  sessions: [],
  skipped: [],
  feedGaps: [],
  untold: new Set(),
  toldTo: more.day ?? 100,
  dueTo: { day: more.day ?? 100, at: null },
  ...more,
});

/** Every day, or every so many, from one to another. */
export const daily = (from: number, to: number, step = 1): number[] =>
  Array.from({ length: Math.max(0, Math.floor((to - from) / step) + 1) }, (_, i) => from + i * step);
