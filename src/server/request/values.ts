/** Figures as the API, the files and the lists give them. */
import { MINUTE } from '@/core/time/zone';

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
