import { describe, expect, it } from 'vitest';
import { layOut, type ShorelinePerson } from '@/core/drift/shoreline';
import { paintDots } from './paint-dots';

const SIZE = { width: 400, height: 74, ashore: 60, radius: 2 };

/** A canvas that writes down what is drawn on it. */
function canvas() {
  const calls: [string, ...unknown[]][] = [];
  const note =
    (name: string) =>
    (...values: unknown[]) =>
      calls.push([name, ...values]);
  const names = ['scale', 'beginPath', 'moveTo', 'lineTo', 'arc', 'fill', 'stroke', 'setLineDash'];
  const context = Object.fromEntries(names.map((name) => [name, note(name)]));
  const element = { width: 0, height: 0, getContext: () => context } as unknown as HTMLCanvasElement;
  return { element, calls, count: (name: string) => calls.filter(([one]) => one === name).length };
}

function paint(people: ShorelinePerson[], ringed: number | null = null) {
  const globals = globalThis as unknown as Record<string, unknown>;
  const before = [globals.window, globals.getComputedStyle];
  globals.window = { devicePixelRatio: 2 };
  globals.getComputedStyle = () => ({ getPropertyValue: (name: string) => ` ${name} ` });
  const paper = canvas();
  const dots = layOut(people, SIZE);
  paintDots(paper.element, dots, SIZE, dots.find((dot) => dot.id === ringed) ?? null);
  [globals.window, globals.getComputedStyle] = before;
  return paper;
}

const person = (id: number, score: number | null, weekAgo: number | null = score): ShorelinePerson => ({
  id,
  score,
  weekAgo,
  band: score === null ? null : score >= 65 ? 2 : score >= 40 ? 1 : 0,
});

describe('painting the Shoreline', () => {
  it('is a handful of paths however many dots there are', () => {
    const paper = paint(Array.from({ length: 5000 }, (_, id) => person(id, id % 101)));
    expect(paper.count('arc')).toBe(5000);
    expect(paper.count('fill')).toBe(3);
    expect(paper.count('beginPath')).toBe(6);
    expect(paper.element).toMatchObject({ width: 920, height: 148 });
  });

  it('draws a trail for whoever moved, and none for who stayed or had no reading', () => {
    const paper = paint([person(1, 80, 20), person(2, 80, 79), person(3, 80, null), person(4, null, 50)]);
    expect(paper.count('lineTo')).toBe(1);
  });

  it('outlines with dashes whoever has no reading: form as well as colour', () => {
    const paper = paint([person(1, null)]);
    expect(paper.calls).toContainEqual(['setLineDash', [2, 1.5]]);
    expect(paper.count('fill')).toBe(0);
  });

  it('rings the dot that is pointed at, and paints nothing for nobody', () => {
    const [plain, ringed] = [paint([person(1, 50)]), paint([person(1, 50)], 1)];
    expect(ringed.count('arc')).toBe(plain.count('arc') + 1);
    expect(paint([]).count('arc')).toBe(0);
  });
});
