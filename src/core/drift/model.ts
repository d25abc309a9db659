/** What drift is read by. */
import { DEFAULT_EDGES } from './bands';
import { behind } from './behind';
import { EVIDENCE_WORDS } from './evidence';
import { falling } from './falling';
import { late } from './late';
import { marks } from './marks';
import { missing } from './missing';
import { noHandIn } from './no-hand-in';
import { quiet } from './quiet';
import { sessions } from './sessions';
import { talking } from './talking';
import type { FactKind, Factor, Model, Weight } from './types';
import { working } from './working';

/** Every factor that is computed: a file of its own, and a place in this list. */
export const FACTORS: readonly Factor[] = [
  missing,
  behind,
  working,
  talking,
  sessions,
  marks,
  falling,
  noHandIn,
  late,
  quiet,
] as Factor[];

/** Where nobody has set anything else. */
export const DEFAULT_MODEL: Model = { factors: FACTORS, weights: {}, edges: DEFAULT_EDGES };

/** The elapsed share of the course, 0–1; half-way when it has no dates to tell by. */
export function elapsedShare(day: number, start: number | null, end: number | null): number {
  if (start === null || end === null || end <= start) return 0.5;
  return Math.min(1, Math.max(0, (day - start) / (end - start)));
}

/**
 * Weight of a factor when a share `p` of the course has gone by: linear between early and late.
 *
 * @example weightAt({ early: 30, late: 20 }, 0.5) // 25
 */
export function weightAt({ early, late }: Weight, p: number): number {
  return early + (late - early) * p;
}

/** What a factor weighs in a model. */
export function weightOf(model: Model, factor: Factor): Weight {
  return model.weights[factor.name] ?? factor.weight;
}

/** The kinds of fact that a model's factors need. */
export function factsNeeded({ factors }: Model): FactKind[] {
  return [...new Set(factors.flatMap(({ needs }) => needs))];
}

const TITLES = new Map(FACTORS.map(({ name, title }) => [name, title]));

/** What a reason is called on a screen; a factor that is no more keeps its name. */
export function reasonTitle(name: string): string {
  return TITLES.get(name) ?? name;
}

/** Why a factor could not be judged. */
export function sayNotCounted(name: string): string {
  return FACTORS.find((factor) => factor.name === name)?.notCounted ?? name;
}

/** Why a factor could not be judged of anybody. @example sayUntold('late') // "late work (nobody's hand-ins are known here)" */
export function sayUntold(name: string): string {
  const factor = FACTORS.find((factor) => factor.name === name);
  if (!factor?.evidence) return name;
  return `${factor.title.toLowerCase()} (nobody’s ${EVIDENCE_WORDS[factor.evidence]} are known here)`;
}
