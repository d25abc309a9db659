import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ACTION_KINDS } from '../access/kinds';
import {
  ActivityTally,
  joinEntries,
  keepLearners,
  pack,
  sumsByLearner,
  tallyItemUse,
  type ItemActivity,
  type PackedDay,
} from './packed-days';

const DAY = 86_400_000;
const activityOf = fc.record({
  learner: fc.integer({ min: 1, max: 5 }),
  itemId: fc.integer({ min: 10, max: 13 }),
  day: fc.integer({ min: 0, max: 6 }),
  kind: fc.constantFrom(...ACTION_KINDS),
  events: fc.integer({ min: 1, max: 9 }),
  ms: fc.integer({ min: 0, max: 5000 }),
  at: fc.integer({ min: 0, max: DAY - 10_000 }),
  long: fc.integer({ min: 0, max: 9000 }),
});
type Row = ItemActivity & { learner: number };
const rowsOf = fc.array(activityOf, { maxLength: 60 }).map((rows) =>
  rows.map(({ at, long, ...row }): Row => ({
    ...row,
    courseId: 1,
    first: row.day * DAY + at,
    last: row.day * DAY + at + long,
  })),
);

function packed(rows: readonly Row[]): PackedDay[] {
  return [...new Set(rows.map(({ day }) => day))]
    .sort((a, b) => a - b)
    .map((day) => {
      const numbers: number[] = [];
      for (const row of rows) if (row.day === day) pack(numbers, row.learner, row, day * DAY);
      return { day, startsAt: day * DAY, entries: Int32Array.from(numbers) };
    });
}

describe('packed days', () => {
  it('are tallied for reach as a plain reading of the rows is', () => {
    fc.assert(
      fc.property(
        rowsOf,
        fc.subarray([1, 2, 3, 4, 5]),
        fc.integer({ min: 0, max: 7 * DAY }),
        (rows, learnerIds, before) => {
          const itemIds = [12, 10, 11];
          const since = [null, before, 0];
          const tallies = tallyItemUse(packed(rows), { learnerIds, itemIds, before, since });
          const plain = itemIds.map((itemId, index) => {
            const own = rows.filter((row) => row.itemId === itemId && learnerIds.includes(row.learner));
            const opens = own.filter((row) => row.kind !== 'other');
            const each = learnerIds
              .map((id) => opens.filter((row) => row.learner === id))
              .filter((some) => some.length > 0);
            const first = (some: Row[]) => Math.min(...some.map((row) => row.first));
            const last = (some: Row[]) => Math.max(...some.map((row) => row.last));
            const changed = since[index];
            return {
              openers: each.length,
              opens: opens.reduce((sum, row) => sum + row.events, 0),
              ms: own.reduce((sum, row) => sum + row.ms, 0),
              first: opens.length === 0 ? null : first(opens),
              last: opens.length === 0 ? null : last(opens),
              returners: each.filter((some) => new Set(some.map((row) => row.day)).size > 1).length,
              openersBefore: each.filter((some) => first(some) < before).length,
              openersSince: changed === null ? 0 : each.filter((some) => last(some) >= changed).length,
            };
          });
          expect(tallies).toEqual(plain);
        },
      ),
    );
  });

  it('are tallied for has and has not as a plain reading is', () => {
    fc.assert(
      fc.property(
        rowsOf,
        fc.integer({ min: 0, max: 6 }),
        fc.integer({ min: 1, max: 4 }),
        fc.option(fc.constantFrom(...ACTION_KINDS), { nil: undefined }),
        fc.option(fc.constant(new Set([10, 12])), { nil: null }),
        (rows, start, length, kind, itemIds) => {
          const [from, to] = [start * DAY, (start + length) * DAY];
          const tally = new ActivityTally([1, 2, 3], from, to, itemIds && [...itemIds], kind);
          for (const day of packed(rows)) tally.addDay(day);
          for (const [index, learner] of [1, 2, 3].entries()) {
            const own = rows.filter(
              (row) => row.learner === learner && (!kind || row.kind === kind) && (!itemIds || itemIds.has(row.itemId)),
            );
            const within = own.filter((row) => row.first >= from && row.first < to);
            const outside = own.filter((row) => !within.includes(row));
            const least = (some: number[]) => (some.length === 0 ? NaN : Math.min(...some));
            const most = (some: number[]) => (some.length === 0 ? NaN : Math.max(...some));
            expect([
              tally.count[index],
              tally.first[index],
              tally.last[index],
              tally.before[index],
              tally.after[index],
              tally.otherLast[index],
            ]).toEqual([
              within.reduce((sum, row) => sum + row.events, 0),
              least(within.map((row) => row.first)),
              most(within.map((row) => row.last)),
              most(outside.filter((row) => row.last < from).map((row) => row.last)),
              least(outside.filter((row) => row.first >= to).map((row) => row.first)),
              most(outside.map((row) => row.last)),
            ]);
          }
        },
      ),
    );
  });

  it('lose the learners that are taken out, keep the others, and can be joined', () => {
    fc.assert(
      fc.property(rowsOf, (rows) => {
        const sum = (days: readonly PackedDay[]) => {
          const sums = new Map<number, number>();
          for (const day of days) sumsByLearner(day, sums);
          return sums;
        };
        const whole = packed(rows);
        const isOdd = (learner: number) => learner % 2 === 1;
        const parts = whole.map((day) => [
          keepLearners(day.entries, isOdd),
          keepLearners(day.entries, (learner) => !isOdd(learner)),
        ]);
        const joined = whole.map((day, i) => ({ ...day, entries: joinEntries(parts[i]) }));
        expect(sum(joined)).toEqual(sum(whole));
        expect([...sum(whole.map((day, i) => ({ ...day, entries: parts[i][0] }))).keys()].every(isOdd)).toBe(true);
      }),
    );
  });
});
