import { describe, expect, it } from 'vitest';
import { MINUTE } from '../time/zone';
import { MOST_EVENTS, arrivals, isSuspect, itemsNow, whoIsIn, withNew, type LiveEvent } from './now';

const now = Date.parse('2026-11-24T09:10:00Z');
let id = 0;
/** An event so many minutes ago. */
const event = (who: string, ago: number, item: string | null = 'D1'): LiveEvent => ({
  id: String((id += 1)).padStart(6, '0'),
  at: now - ago * MINUTE,
  source: 1,
  who,
  learner_id: who,
  name: who,
  course: 'DRY',
  item_id: item,
  item,
  action: 'opened',
});

describe('withNew', () => {
  it('keeps each event once, newest first, and lets those go that are an hour old', () => {
    const [a, b, old] = [event('a', 3), event('b', 1), event('c', 61)];
    expect(withNew([a, old], [a, b], now)).toEqual([b, a]);
  });

  it('keeps no more than the screen can hold', () => {
    const many = Array.from({ length: MOST_EVENTS + 5 }, () => event('a', 1));
    expect(withNew([], many, now)).toHaveLength(MOST_EVENTS);
  });
});

it('arrivals keep when each first came, whatever leaves the hour since', () => {
  const since = now - 90 * MINUTE;
  const early = arrivals(new Map(), [event('a', 80), event('a', 70), event('b', 95)], since);
  expect(early).toEqual(new Map([['a', now - 80 * MINUTE]]));
  expect(arrivals(early, [event('a', 1), event('b', 2)], since)).toEqual(
    new Map([
      ['a', now - 80 * MINUTE],
      ['b', now - 2 * MINUTE],
    ]),
  );
});

describe('whoIsIn', () => {
  it('has those whose last event is within half an hour, since the beginning of this visit', () => {
    const events = withNew([], [event('a', 2), event('a', 20), event('b', 31), event('c', 5), event('c', 40)], now);
    expect(whoIsIn(events, now).map(({ who, since, events: n }) => [who, (now - since) / MINUTE, n])).toEqual([
      ['a', 20, 2],
      ['c', 5, 1],
    ]);
  });

  it('empties as time goes by', () => {
    expect(whoIsIn([event('a', 2)], now + 29 * MINUTE)).toEqual([]);
  });
});

describe('itemsNow', () => {
  it('counts who stopped at an item and who came back to it', () => {
    const trail = ['a', 'b', 'c'].flatMap((who) => [
      event(who, 30, 'D1'),
      event(who, 28, 'D2'),
      event(who, 26, 'D1'),
      event(who, 25, 'D1'),
    ]);
    const events = withNew([], [...trail, event('d', 1, 'D2'), event('e', 7, null)], now);
    const [first, second] = itemsNow(events, now);
    expect(first).toMatchObject({ item_id: 'D1', learners: 3, stopped: 3, returned: 3 });
    expect(second).toMatchObject({ item_id: 'D2', learners: 4, stopped: 0, returned: 0 });
    expect(isSuspect(first)).toBe(true);
    expect(isSuspect(second)).toBe(false);
  });

  it('has nothing to say of no events', () => expect(itemsNow([], now)).toEqual([]));
});
