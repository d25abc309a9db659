/** The Shoreline: where each learner's dot lies in the picture of a whole caseload. */
import type { Band } from './bands';

/** One learner of the picture: plain numbers, since there may be thousands. */
export interface ShorelinePerson {
  id: number;
  score: number | null;
  weekAgo: number | null;
  band: Band | null;
}

/** The same as it is sent: id, score, a week ago, band. There is one for everybody in view. */
export type PackedPerson = readonly [id: number, score: number | null, weekAgo: number | null, band: Band | null];

export function unpackPerson([id, score, weekAgo, band]: PackedPerson): ShorelinePerson {
  return { id, score, weekAgo, band };
}

export interface Dot {
  id: number;
  band: Band | null;
  score: number | null;
  x: number;
  y: number;
  /** Where it was a week ago; null when there was no reading. */
  xBefore: number | null;
}

export interface ShorelineSize {
  /** Width of the water, from drift 0 to 100, in px. */
  width: number;
  height: number;
  /** Width kept at the right for those without a reading, in px. */
  ashore: number;
  /** Radius of a dot, in px. */
  radius: number;
}

/** The x of a drift. */
export function xOfScore(score: number, { width, radius }: Pick<ShorelineSize, 'width' | 'radius'>): number {
  return radius + (score / 100) * (width - 2 * radius);
}

/** The drift at an x, between 0 and 100. */
export function scoreOfX(x: number, { width, radius }: Pick<ShorelineSize, 'width' | 'radius'>): number {
  return Math.min(100, Math.max(0, ((x - radius) / (width - 2 * radius)) * 100));
}

/** Dots of one column may lie over each other down to this many px apart; then they spill over. */
const CLOSEST = 3;

/**
 * Lays the dots out: by drift from left to right, those of like drift stacked from the middle
 * outward, closer together where there are many. A column that is full spills into the next
 * toward the middle of the picture, so a crowd at either end stays a crowd to be seen. Those
 * without a reading stand in a block at the right. Takes time in proportion to the people.
 */
export function layOut(people: readonly ShorelinePerson[], size: ShorelineSize): Dot[] {
  const { width, height, ashore, radius } = size;
  const cell = radius * 2 + 1;
  const last = Math.max(1, Math.floor((width - radius) / cell));
  const columns = Array.from({ length: last + 1 }, (): ShorelinePerson[] => []);
  const without: ShorelinePerson[] = [];
  for (const person of people) {
    if (person.score === null) without.push(person);
    else columns[Math.min(last, Math.round(xOfScore(person.score, size) / cell))].push(person);
  }
  const room = Math.max(1, Math.floor((height - cell) / CLOSEST) + 1);
  const middle = Math.floor(last / 2);
  for (let at = 0; at < middle; at += 1) columns[at + 1].unshift(...columns[at].splice(room));
  for (let at = last; at > middle; at -= 1) columns[at - 1].unshift(...columns[at].splice(room));
  const dots: Dot[] = [];
  columns.forEach((stack, column) => {
    const step = Math.min(cell, (height - cell) / Math.max(1, stack.length - 1));
    stack.forEach((person, index) => {
      // 0, +1, −1, +2, −2 … from the middle.
      const place = (index % 2 === 1 ? 1 : -1) * Math.ceil(index / 2);
      const y = Math.min(height - radius, Math.max(radius, height / 2 + place * step));
      dots.push(dot(person, Math.min(width - radius, Math.max(radius, column * cell)), y, size));
    });
  });
  const across = Math.max(1, Math.floor(ashore / cell));
  const step = Math.min(cell, (height - cell) / Math.max(1, Math.ceil(without.length / across) - 1));
  without.forEach((person, index) => {
    dots.push(
      dot(person, width + radius + (index % across) * cell, radius + 1 + Math.floor(index / across) * step, size),
    );
  });
  return dots;
}

function dot({ id, band, score, weekAgo }: ShorelinePerson, x: number, y: number, size: ShorelineSize): Dot {
  return { id, band, score, x, y, xBefore: weekAgo === null ? null : xOfScore(weekAgo, size) };
}

/** The dot nearest to a point, within `reach` px; null when there is none. */
export function dotAt(dots: readonly Dot[], x: number, y: number, reach: number): Dot | null {
  let nearest: Dot | null = null;
  let least = reach * reach;
  for (const one of dots) {
    const distance = (one.x - x) ** 2 + (one.y - y) ** 2;
    if (distance <= least) {
      nearest = one;
      least = distance;
    }
  }
  return nearest;
}
