import type { NoReading } from './types';

/** Why there is no reading, in words. */
export const NO_READING_WORDS: Readonly<Record<NoReading, string>> = {
  finished: 'Finished: everything required is done',
  early: 'In the first seven days: too early to read',
  blind: 'The log was incomplete for the last seven days',
  little: 'Too little to judge by yet',
};
