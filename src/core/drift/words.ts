import type { FactorName, ReasonName } from './types';

/** What a reason is called on a screen. */
export const REASON_WORDS: Record<ReasonName, string> = {
  quiet: 'Quiet',
  fading: 'Fading',
  sessions: 'Sessions',
  overdue: 'Overdue',
  silent: 'Silent',
  grade: 'Grade',
  pace: 'Pace',
  never_accessed: 'Never accessed',
  long_quiet: 'Long quiet',
};

/** Why a factor could not be judged. */
export const NOT_COUNTED_WORDS: Record<FactorName, string> = {
  quiet: 'quiet (too early to tell)',
  fading: 'fading (too little history)',
  sessions: 'sessions (none held yet)',
  overdue: 'overdue (nothing was due yet)',
  silent: 'silent (too little talk in the group)',
  grade: 'grade (fewer than 2 graded items)',
  pace: 'pace (too early in the course)',
};
