/** The figures of a learner as the API, the exports and the lists give them. */
import { bandWord } from '@/core/drift/bands';
import { daysQuiet } from '@/core/access/last-access';
import { MINUTE } from '@/core/time/zone';
import type { LearnerRow } from '@/data/learners';
import { fullName } from '@/data/staff';

export function isoOrNull(at: number | null): string | null {
  return at === null ? null : new Date(at).toISOString().replace('.000Z', 'Z');
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
