/** What a reason says, as it is stored and as it is read. */

/** The name of a sentence and its numbers. */
export interface Sentence {
  name: string;
  /** Weeks ahead of plan of somebody whom it is not held against. */
  ahead?: number;
  [number: string]: number | string | undefined;
}

/** A sentence in words: the fact that matters first, what explains it, and both as a short phrase. */
export interface Said {
  fact: string;
  more: string[];
  short: string;
}
