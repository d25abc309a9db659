/** What became of people who stood so, in one's own finished courses: a share said as coarsely as it is known. */
import { bandOf, type BandEdges } from '../drift/bands';
import type { Band } from '../drift/bands';
import { drawLearners, estimateOf } from './bootstrap';
import type { Rule } from './cohort';
import type { FitCohort } from './fit';
import { GIVES_UP, leavesAbout } from './replay';

/** Under so many leavers who stood so nothing is said. */
const ENOUGH_LEAVERS = 10;
const DRAWS = 200;

const THIRDS = ['first third', 'second third', 'last third'] as const;

export interface Chance {
  band: Band;
  third: (typeof THIRDS)[number];
  /** Learners who stood so in some week, and of them who left soon after one of those weeks. */
  learners: number;
  leavers: number;
  /** In words, with the middle 90 %; null under ten leavers. */
  says: string | null;
}

/** Shares that are said, from few to many. */
const SAID: readonly (readonly [share: number, words: string])[] = [
  [1 / 30, '1 in 30'],
  [1 / 20, '1 in 20'],
  [1 / 15, '1 in 15'],
  [1 / 10, '1 in 10'],
  [1 / 8, '1 in 8'],
  [1 / 6, '1 in 6'],
  [1 / 5, '1 in 5'],
  [1 / 4, '1 in 4'],
  [1 / 3, '1 in 3'],
  [1 / 2, '1 in 2'],
  [2 / 3, '2 in 3'],
  [3 / 4, '3 in 4'],
  [9 / 10, '9 in 10'],
];

/**
 * A share as it is said: the nearest of a few, on the scale of odds.
 *
 * @example saySoMany(0.27) // '1 in 4'
 */
export function saySoMany(share: number): string {
  if (share < 1 / 40) return 'fewer than 1 in 40';
  const odds = (value: number) => Math.log(value / (1 - Math.min(value, 0.999)));
  return SAID.reduce((best, one) =>
    Math.abs(odds(one[0]) - odds(share)) < Math.abs(odds(best[0]) - odds(share)) ? one : best,
  )[1];
}

interface Row {
  learner: number;
  leaves: boolean;
}

/**
 * Shares of those in a band of drift, in each third of a course, whose last activity came within four weeks: of learner-weeks,
 * without those who never came, who were gone already, or who were tried in the 28 days before, which spoils what would have been.
 * The interval draws learners again.
 *
 * @param drift the score of somebody in a week
 */
export function chancesOf(cohorts: readonly FitCohort[], drift: Rule, edges: BandEdges): Chance[] {
  const cells = new Map<string, Row[]>();
  let before = 0;
  for (const { learners, weeks, contacts } of cohorts) {
    for (const { day, seen } of weeks) {
      for (const one of seen) {
        const score = drift(one);
        const leaves = leavesAbout(learners[one.place], day);
        if (score === null || leaves === null || !one.absence.hasCome) continue;
        if (contacts[one.place].some((on) => on <= day && day - on < GIVES_UP)) continue;
        const key = `${bandOf(score, edges)} ${Math.min(2, Math.floor(3 * one.elapsed))}`;
        const rows = cells.get(key) ?? [];
        rows.push({ learner: before + one.place, leaves });
        cells.set(key, rows);
      }
    }
    before += learners.length;
  }
  const draws = drawLearners(before, DRAWS);
  return [2, 1, 0].flatMap((band) =>
    THIRDS.flatMap((third, index): Chance[] => {
      const rows = cells.get(`${band} ${index}`);
      return rows ? [chanceOf(rows, draws, band as Band, third)] : [];
    }),
  );
}

function chanceOf(rows: readonly Row[], draws: readonly Uint16Array[], band: Band, third: Chance['third']): Chance {
  const share = (counts?: Uint16Array) => {
    let [all, leaving] = [0, 0];
    for (const { learner, leaves } of rows) {
      const count = counts ? counts[learner] : 1;
      all += count;
      if (leaves) leaving += count;
    }
    return all === 0 ? null : leaving / all;
  };
  const learners = new Set(rows.map(({ learner }) => learner)).size;
  const leavers = new Set(rows.filter(({ leaves }) => leaves).map(({ learner }) => learner)).size;
  if (leavers < ENOUGH_LEAVERS) return { band, third, learners, leavers, says: null };
  const { value, low, high } = estimateOf(share(), draws.map(share));
  const [about, from, to] = [value!, low!, high!].map(saySoMany);
  return { band, third, learners, leavers, says: `about ${about}${from === to ? '' : ` (${from} to ${to})`}` };
}
