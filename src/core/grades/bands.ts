/** Score bands and a course's own scale for totals. */

/** The lowest per cent of *secure* and of *getting there*. */
export interface ScoreEdges {
  secure: number;
  getting: number;
}

export const SCORE_BANDS = ['not yet', 'getting there', 'secure'] as const;
export type ScoreBand = (typeof SCORE_BANDS)[number];

/** The pass mark of a course that names none. */
export const DEFAULT_PASS_MARK = 50;

/** Edges where a course has none of its own: the pass mark, and the middle between it and 100. */
export function defaultEdges(passMark: number | null): ScoreEdges {
  const getting = passMark ?? DEFAULT_PASS_MARK;
  return { getting, secure: (getting + 100) / 2 };
}

/** The band of a score in per cent. */
export function scoreBand(score: number, { secure, getting }: ScoreEdges): ScoreBand {
  if (score >= secure) return 'secure';
  return score >= getting ? 'getting there' : 'not yet';
}

/** A step of a course's scale: from this per cent on it is called so. */
export interface ScaleStep {
  from: number;
  says: string;
}

/** What a total is called on a scale; null for no scale, or a total under its lowest edge. */
export function onScale(total: number | null, scale: readonly ScaleStep[]): string | null {
  if (total === null) return null;
  let best: ScaleStep | null = null;
  for (const step of scale) if (total >= step.from && (best === null || step.from > best.from)) best = step;
  return best?.says ?? null;
}

/**
 * Reads a scale as it is typed, a step a line or after a comma: `85 A, 70 B, 50 C`.
 *
 * @returns the steps, highest first; null for what is no scale
 */
export function readScale(text: string): ScaleStep[] | null {
  const parts = text
    .split(/[,;\n]/)
    .map((part) => part.trim())
    .filter(Boolean);
  const steps = parts.map((part) => /^(\d{1,3}(?:\.\d+)?)\s*%?\s+(\S.{0,39})$/.exec(part));
  if (steps.some((found) => found === null || Number(found[1]) > 100)) return null;
  const read = steps.map((found) => ({ from: Number(found![1]), says: found![2] })).sort((a, b) => b.from - a.from);
  return new Set(read.map(({ from }) => from)).size === read.length ? read : null;
}

/** A scale as it is typed. */
export function writeScale(scale: readonly ScaleStep[]): string {
  return scale.map(({ from, says }) => `${from} ${says}`).join(', ');
}
