/** Folding the rows of a log into runs: one learner's events with no pause over the idle gap. */
import { IDLE_GAP } from './visits';

interface Foldable {
  at: number;
  /** Whose event it is; staff have ids of their own. */
  who: string;
}

export interface Run<T extends Foldable> {
  who: string;
  first: number;
  last: number;
  /** Newest first. */
  rows: T[];
}

/**
 * Folds rows, newest first, into runs in the order of their newest events. Rows of others may lie
 * between those of a run: two people working at once make two runs, not many.
 * @param rows newest first
 */
export function foldRuns<T extends Foldable>(rows: readonly T[], idleGap = IDLE_GAP): Run<T>[] {
  const runs: Run<T>[] = [];
  const open = new Map<string, Run<T>>();
  for (const row of rows) {
    const run = open.get(row.who);
    if (run && run.first - row.at <= idleGap) {
      run.rows.push(row);
      run.first = row.at;
    } else {
      const begun = { who: row.who, first: row.at, last: row.at, rows: [row] };
      open.set(row.who, begun);
      runs.push(begun);
    }
  }
  return runs;
}
