/** Who would stand elsewhere on the Watch by another setting, and why. */
import { bandWord } from './bands';
import { reasonTitle } from './model';
import { PART_WORDS, type Part } from './order';
import type { Reason } from './types';
import type { Band } from './bands';

/** Where somebody stands by a setting. */
export interface WatchPosition {
  score: number | null;
  band: Band | null;
  part: Part;
}

/** One course's reasons, by either setting. */
export interface ReasonsBeside {
  before: readonly Pick<Reason, 'factor' | 'points'>[];
  after: readonly Pick<Reason, 'factor' | 'points'>[];
}

/** Is somebody on today's list: to be turned to now, and not on course? */
export function isListed({ part, band }: WatchPosition): boolean {
  return part === 'now' && (band ?? 0) > 0;
}

export type Move = 'joins' | 'leaves' | 'moves';

/** How somebody moves; null for whoever stays where they are. */
export function moveOf(before: WatchPosition, after: WatchPosition): Move | null {
  const [was, is] = [isListed(before), isListed(after)];
  if (was !== is) return is ? 'joins' : 'leaves';
  return before.band === after.band && before.part === after.part ? null : 'moves';
}

/** Reasons told of one move. */
const REASONS_TOLD = 3;

/**
 * What moves somebody, in words: their part, then the reasons whose points change most.
 *
 * @example
 * whyMoved(before, after, [{ before: [{ factor: 'quiet', points: 5 }], after: [{ factor: 'quiet', points: 12 }] }])
 * // ['Quiet 5 → 12']
 */
export function whyMoved(before: WatchPosition, after: WatchPosition, courses: readonly ReasonsBeside[]): string[] {
  const parts = before.part === after.part ? [] : [`${PART_WORDS[before.part]} → ${PART_WORDS[after.part]}`];
  const points = courses
    .flatMap((own) => {
      const factors = new Set([...own.before, ...own.after].map(({ factor }) => factor));
      const pointsOf = (reasons: ReasonsBeside['before'], name: string) =>
        reasons.find(({ factor }) => factor === name)?.points ?? 0;
      return [...factors].map((name) => ({ name, was: pointsOf(own.before, name), is: pointsOf(own.after, name) }));
    })
    .filter(({ was, is }) => Math.round(was) !== Math.round(is))
    .sort((a, b) => Math.abs(b.is - b.was) - Math.abs(a.is - a.was))
    .slice(0, REASONS_TOLD)
    .map(({ name, was, is }) => `${reasonTitle(name)} ${Math.round(was)} → ${Math.round(is)}`);
  const said = [...parts, ...points];
  return said.length > 0 || before.band === after.band ? said : [`${bandWord(after.band)} by the edges alone`];
}
