/** The figures of a learner as the API, the exports and the lists give them. */
import { bandWord } from '@/core/drift/bands';
import { daysQuiet } from '@/core/access/last-access';
import { MINUTE } from '@/core/time/zone';
import type { LearnerRow } from '@/data/people/learners';
import { fullName } from '@/core/people/name';

// One for all: a new one for each of thousands of figures is a good part of a list's time.
const scratch = new Date(0);

/** An instant in UTC as RFC 3339 has it, without thousandths where there are none. */
export function isoOrNull(at: number | null): string | null {
  if (at === null) return null;
  scratch.setTime(at);
  const text = scratch.toISOString();
  return text.endsWith('.000Z') ? `${text.slice(0, -5)}Z` : text;
}

/** Minutes to four decimals: exact to well under a second. */
export function minutes(ms: number): number {
  return Math.round((ms / MINUTE) * 10_000) / 10_000;
}

/** A score to two decimals. */
export function score(value: number | null): number | null {
  return value === null ? null : Math.round(value * 100) / 100;
}

export type LearnerFigures = ReturnType<typeof learnerFigures>;

export function learnerFigures(now: number, zone: string, row: LearnerRow) {
  return {
    learner_id: row.learner_id,
    name: fullName(row),
    email: row.email,
    phone: row.phone,
    organisation: row.organisation,
    courses: row.courses,
    last_access: isoOrNull(row.last_at),
    days_quiet: daysQuiet(row.last_at, now, zone),
    minutes_online: minutes(row.ms),
    drift: score(row.score),
    band: bandWord(row.band),
  };
}
