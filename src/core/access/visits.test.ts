import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDLE_GAP, TAIL, partsOf, visitsOf, type AccessEvent } from './visits';

const event = (at: number, courseId = 1, itemId: number | null = null): AccessEvent => ({
  at,
  courseId,
  itemId,
  kind: 'looked',
});

describe('visitsOf', () => {
  it('finds none in no events', () => expect(visitsOf([])).toEqual([]));

  it('gives one event the tail alone', () => {
    expect(visitsOf([event(5000)])).toMatchObject([{ start: 5000, end: 5000, ms: TAIL }]);
  });

  it('goes on over a pause of exactly the idle gap and ends over one millisecond more', () => {
    expect(visitsOf([event(0), event(IDLE_GAP)])).toMatchObject([{ start: 0, end: IDLE_GAP, ms: IDLE_GAP + TAIL }]);
    expect(visitsOf([event(0), event(IDLE_GAP + 1)])).toHaveLength(2);
  });

  it('keeps equal times in one visit, with no time between them', () => {
    const [visit] = visitsOf([event(0, 1), event(0, 2), event(1000, 1)]);
    expect(visit.events.map((one) => one.ms)).toEqual([0, 1000, TAIL]);
  });

  it('refuses events out of order', () => expect(() => visitsOf([event(2), event(1)])).toThrow(RangeError));

  it('gives the time between events to the course of the earlier one', () => {
    const [visit] = visitsOf([event(0, 1), event(60_000, 2), event(180_000, 1)]);
    expect(partsOf(visit)).toMatchObject([
      { courseId: 1, ms: 60_000 + TAIL, events: 2, first: 0, last: 180_000 },
      { courseId: 2, ms: 120_000, events: 1 },
    ]);
  });

  it('loses no event and no time: parts add up to visits, visits to last − first + tail', () => {
    const gaps = fc.array(fc.tuple(fc.integer({ min: 0, max: 2 * IDLE_GAP }), fc.integer({ min: 1, max: 3 })), {
      maxLength: 60,
    });
    fc.assert(
      fc.property(gaps, (steps) => {
        let at = 0;
        const events = steps.map(([gap, course]) => event((at += gap), course));
        const visits = visitsOf(events);
        expect(visits.flatMap((visit) => visit.events)).toHaveLength(events.length);
        for (const visit of visits) {
          expect(visit.ms).toBe(visit.end - visit.start + TAIL);
          expect(partsOf(visit).reduce((sum, part) => sum + part.ms, 0)).toBe(visit.ms);
        }
      }),
    );
  });
});
