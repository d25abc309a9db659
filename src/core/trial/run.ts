/** A trial on past courses or a fit that somebody asked for, and how far it is. */
export type TrialKind = 'trial' | 'fit';

export type TrialState = 'waiting' | 'running' | 'done' | 'cancelled' | 'failed';
