import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dotAt, layOut, scoreOfX, xOfScore, type ShorelinePerson } from './shoreline';

const size = { width: 860, height: 70, ashore: 80, radius: 3 };
const person = (id: number, score: number | null, weekAgo: number | null = null): ShorelinePerson => ({
  id,
  score,
  weekAgo,
  band: score === null ? null : 0,
});

describe('the Shoreline', () => {
  it('puts drift 0 at the left edge and 100 at the coast', () => {
    expect([xOfScore(0, size), xOfScore(100, size)]).toEqual([3, 857]);
    expect(scoreOfX(xOfScore(42, size), size)).toBeCloseTo(42);
    expect([scoreOfX(-50, size), scoreOfX(9999, size)]).toEqual([0, 100]);
  });

  it('stacks like drifts from the middle outward', () => {
    const dots = layOut([person(1, 50), person(2, 50), person(3, 50)], size);
    expect(dots.map((dot) => dot.y)).toEqual([35, 42, 28]);
    expect(new Set(dots.map((dot) => dot.x)).size).toBe(1);
  });

  it('lets a crowd spill toward the middle, so that it is seen as one', () => {
    const dots = layOut(
      Array.from({ length: 100 }, (_, id) => person(id, 100)),
      size,
    );
    const columns = new Set(dots.map((dot) => dot.x));
    expect(columns.size).toBe(5);
    expect(Math.min(...columns)).toBeGreaterThan(size.width - 6 * 7);
  });

  it('keeps those without a reading ashore, and where somebody was a week ago', () => {
    const [here, moved] = layOut([person(1, 80, 20), person(2, null)], size);
    expect(here.xBefore).toBe(xOfScore(20, size));
    expect(moved).toMatchObject({ score: null, xBefore: null });
    expect(moved.x).toBeGreaterThan(size.width);
  });

  it('loses nobody, and nobody leaves the picture, however many there are', () => {
    const anyone = fc.record({ score: fc.option(fc.double({ min: 0, max: 100, noNaN: true })) });
    fc.assert(
      fc.property(fc.array(anyone, { maxLength: 400 }), (list) => {
        const dots = layOut(
          list.map(({ score }, id) => person(id, score)),
          size,
        );
        expect(dots.map((dot) => dot.id).sort((a, b) => a - b)).toEqual(list.map((_, id) => id));
        for (const { x, y } of dots) {
          expect(x).toBeGreaterThanOrEqual(0);
          expect(x).toBeLessThanOrEqual(size.width + size.ashore + 7);
          expect(y).toBeGreaterThanOrEqual(0);
          expect(y).toBeLessThanOrEqual(size.height);
        }
      }),
    );
  });

  it('finds the dot under the pointer', () => {
    const dots = layOut([person(1, 10), person(2, 90)], size);
    expect(dotAt(dots, dots[1].x + 2, dots[1].y, 6)?.id).toBe(2);
    expect(dotAt(dots, 400, 10, 6)).toBeNull();
  });
});
