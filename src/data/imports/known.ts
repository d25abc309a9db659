import { prepared, type RawConnection } from '../db';

/** How much is known of an installation. */
export interface KnownCounts {
  learners: number;
  /** Learners that no roster has told of. */
  provisional: number;
  items: number;
  required: number;
  sessions: number;
}

/** Counts what is known, for whoever sets the installation up. */
export function countKnown(raw: RawConnection): KnownCounts {
  return prepared(
    raw,
    `SELECT (SELECT count(*) FROM learner WHERE merged_into IS NULL) AS learners,
       (SELECT count(*) FROM learner WHERE provisional IS NOT NULL AND merged_into IS NULL) AS provisional,
       (SELECT count(*) FROM item WHERE removed_at IS NULL) AS items,
       (SELECT count(*) FROM item WHERE removed_at IS NULL AND required = 1) AS required,
       (SELECT count(*) FROM session WHERE removed_at IS NULL AND cancelled = 0) AS sessions`,
  ).get() as KnownCounts;
}
