import { fading } from './fading';
import { quiet } from './quiet';
import { silent } from './silent';
import type { Factor, FactorName } from './types';

/** Every factor that is computed. A new one is a file of its own and a place in this list. */
export const FACTORS: readonly Factor[] = [quiet, fading, silent];

/** A weight for each factor, at the course's beginning and at its end. */
export type Weights = Record<FactorName, { early: number; late: number }>;

/** The programme-wide defaults. */
export const DEFAULT_WEIGHTS: Weights = {
  quiet: { early: 30, late: 20 },
  fading: { early: 10, late: 12 },
  sessions: { early: 20, late: 12 },
  overdue: { early: 20, late: 20 },
  silent: { early: 12, late: 4 },
  grade: { early: 3, late: 18 },
  pace: { early: 5, late: 14 },
};

/** The elapsed share of the course, 0–1; half-way when it has no dates to tell by. */
export function elapsedShare(day: number, start: number | null, end: number | null): number {
  if (start === null || end === null || end <= start) return 0.5;
  return Math.min(1, Math.max(0, (day - start) / (end - start)));
}

/** Weight of a factor when a share `p` of the course has gone by: linear between early and late. */
export function weightAt(weights: Weights, name: FactorName, p: number): number {
  const { early, late } = weights[name];
  return early + (late - early) * p;
}
