import fc from 'fast-check';
import { afterEach, describe, expect, it } from 'vitest';
import { dateOfDay, dayFromDate, dayOf } from '@/core/time/zone';
import { isBeingRead } from '@/data/view';
import { checkAll } from '../check';
import { openDriftView } from '../request/view';
import { enterBreak } from '../courses/calendar';
import { learnerList } from '../people/learner-list';
import { readAllPast, readPast, recalculate } from './recalculate';
import { needOrder } from './watch';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, testRuntime, type TestRuntime } from '../testing';

/** A small term: one course, two groups, eight weeks, learners of different habits. */
const START = dayFromDate('2026-09-28')!;
const LAST = START + 55;
const LEARNERS = ['L1', 'L2', 'L3', 'L4', 'L5', 'L6'];
const OUTLINE = [
  'course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at',
  `DRY,Drystone Walling,${dateOfDay(START)},2026-12-21,D1,Stone,page,yes,`,
  `DRY,Drystone Walling,${dateOfDay(START)},2026-12-21,D2,Talk,discussion,yes,`,
  // A sheet a week, due at its end.
  ...Array.from(
    { length: 8 },
    (_, week) =>
      `DRY,Drystone Walling,${dateOfDay(START)},2026-12-21,W${week},Sheet ${week},assignment,yes,${dateOfDay(START + 7 * week + 6)}T18:00:00Z`,
  ),
  // Pieces without a date, which count on the day they are planned for.
  ...Array.from(
    { length: 6 },
    (_, n) => `DRY,Drystone Walling,${dateOfDay(START)},2026-12-21,P${n},Sketch ${n},assignment,yes,`,
  ),
  '',
].join('\n');
const ROSTER = ['learner_id,given_name,course,group,enrolled_on']
  .concat(LEARNERS.map((id, i) => `${id},Ines ${i},DRY,${i % 2 ? 'A' : 'B'},${dateOfDay(START + (i === 5 ? 20 : 0))}`))
  .join('\n');

/** What everybody does on a day: some always come, some fade, one never. */
function linesOf(day: number): string[] {
  const week = Math.floor((day - START) / 7);
  return LEARNERS.flatMap((id, i) => {
    const every = [1, 2, 3, 2 + week, 4][i] ?? 0;
    if (every === 0 || (day - START + i) % every !== 0 || (i === 4 && week > 3)) return [];
    const at = (hour: number) => `${dateOfDay(day)}T${hour}:10:00Z`;
    return [`${at(10)},${id},DRY,D1,opened`, `${at(11)},${id},DRY,D2,posted`, `${at(12)},${id},DRY,W${week},submitted`];
  });
}

const days = Array.from({ length: LAST - START + 1 }, (_, i) => START + i);
const evening = (day: number) => `${dateOfDay(day)}T21:00:00Z`;

async function driftNow(runtime: TestRuntime, asOf?: number) {
  const { rows } = await learnerList(runtime, SYSTEM_VIEWER, asOf === undefined ? {} : { as_of: dateOfDay(asOf) });
  // Somebody enrolled for a day to come is listed today, and not as of a day before it.
  const begun = rows.filter(
    (row) => row.learner_id !== 'L6' || (asOf ?? dayOf(runtime.clock.now(), 'UTC')) >= START + 20,
  );
  const view = await openDriftView(runtime, SYSTEM_VIEWER, {}, asOf === undefined ? undefined : dateOfDay(asOf));
  const order = await needOrder(runtime, view);
  const parts = new Map(order.map(({ learnerId, part, daysAway: gone }, place) => [learnerId, { part, gone, place }]));
  return begun.map((row) => ({
    id: row.learner_id,
    score: row.score,
    band: row.band,
    last: row.last_at,
    ...parts.get(row.id),
  }));
}

/** Lives the term day by day with the log complete each evening; what was read on each day. */
async function liveForward(): Promise<Map<number, Awaited<ReturnType<typeof driftNow>>>> {
  const runtime = await testRuntime(`${dateOfDay(START - 1)}T09:00:00Z`);
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  const read = new Map<number, Awaited<ReturnType<typeof driftNow>>>();
  for (const day of days) {
    runtime.setNow(evening(day));
    await bringIn(runtime, 'access-log', logOf(linesOf(day)));
    read.set(day, await driftNow(runtime));
  }
  // looking back from the last day finds what was read on each.
  for (const day of days.slice(0, -1)) expect([day, await driftNow(runtime, day)]).toEqual([day, read.get(day)]);
  expect((await checkAll(runtime)).problems).toEqual([]);
  await runtime.close();
  return read;
}

let runtime: TestRuntime;
const opened: TestRuntime[] = [];
const open = async (now: string) => {
  runtime = await testRuntime(now);
  opened.push(runtime);
};
afterEach(async () => {
  for (const one of opened.splice(0)) await one.close();
});

describe('looking back on a term', () => {
  it('finds what was read on each day, in whatever order and with whatever pauses its files came', async () => {
    const lived = await liveForward();
    await fc.assert(
      fc.asyncProperty(
        // The log in pieces of some days, each brought in on some later day, in any order.
        fc.array(fc.record({ length: fc.integer({ min: 1, max: 20 }), late: fc.integer({ min: 0, max: 30 }) }), {
          minLength: 4,
          maxLength: 8,
        }),
        fc.integer({ min: 0, max: 40 }),
        fc.boolean(),
        async (pieces, rosterAfter, idles) => {
          await open(evening(START + rosterAfter));
          await bringIn(runtime, 'outline', OUTLINE);
          await bringIn(runtime, 'roster', ROSTER);
          let from = START;
          const files = pieces.map(({ length, late }, i) => {
            const to = i === pieces.length - 1 ? LAST : Math.min(LAST, from + length - 1);
            const own = {
              lines: days.filter((day) => day >= from && day <= to),
              on: Math.min(LAST, Math.max(to, START + rosterAfter) + late),
            };
            from = to + 1;
            return own;
          });
          for (const { lines, on } of files.sort((a, b) => a.on - b.on)) {
            runtime.setNow(evening(on));
            await recalculate(runtime);
            if (idles) await readPast(runtime);
            if (lines.length > 0) await bringIn(runtime, 'access-log', logOf(lines.flatMap(linesOf)));
          }
          runtime.setNow(evening(LAST));
          await recalculate(runtime);
          await readAllPast(runtime);
          for (const day of days.slice(0, -1))
            expect([day, await driftNow(runtime, day)]).toEqual([day, lived.get(day)]);
          expect(await driftNow(runtime)).toEqual(lived.get(LAST));
          expect((await checkAll(runtime)).problems).toEqual([]);
        },
      ),
      { numRuns: 6 },
    );
  });

  it('of which the log came late says what it was, not what was known of it', async () => {
    await open(evening(START + 42));
    await bringIn(runtime, 'outline', OUTLINE);
    await bringIn(runtime, 'roster', ROSTER);
    await readAllPast(runtime);
    await bringIn(runtime, 'access-log', logOf(days.slice(0, 43).flatMap(linesOf)));
    const before = await driftNow(runtime, START + 14);
    // Until it has been read anew, whoever looks is told; of today it has been.
    const isTold = async (asOf?: number) => {
      const view = await openDriftView(runtime, SYSTEM_VIEWER, {}, asOf === undefined ? undefined : dateOfDay(asOf));
      return isBeingRead(runtime.db, view, START + 42);
    };
    expect([await isTold(START + 14), await isTold(START + 40), await isTold()]).toEqual([true, false, false]);
    await readAllPast(runtime);
    expect(await isTold(START + 14)).toBe(false);
    const after = await driftNow(runtime, START + 14);
    // Nothing told of anybody's visits: nobody was held to have stayed away.
    expect(before.find((row) => row.id === 'L1')).toMatchObject({ score: null, part: 'now' });
    expect(after.find((row) => row.id === 'L1')).toMatchObject({ band: 0, part: 'now' });
  });

  it('leaves no readings of days to come when a clock was ahead', async () => {
    await open(evening(START + 30));
    await bringIn(runtime, 'outline', OUTLINE);
    await bringIn(runtime, 'roster', ROSTER);
    runtime.setNow(evening(START + 40));
    await recalculate(runtime);
    expect(await runtime.db('drift_reading').max('day as day')).toEqual([{ day: START + 40 }]);
    runtime.setNow(evening(START + 30));
    await recalculate(runtime);
    await readAllPast(runtime);
    expect(await runtime.db('drift_reading').max('day as day')).toEqual([{ day: START + 30 }]);
    expect((await driftNow(runtime)).every((row) => row.score !== undefined)).toBe(true);
    runtime.setNow(evening(START + 31));
    await recalculate(runtime);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('is read anew from the first day of a break on, however long ago', async () => {
    await open(evening(LAST));
    await bringIn(runtime, 'outline', OUTLINE);
    await bringIn(runtime, 'roster', ROSTER);
    await bringIn(runtime, 'access-log', logOf(days.flatMap(linesOf)));
    await readAllPast(runtime);
    const day = START + 25;
    const before = await driftNow(runtime, day);
    const [from, to] = [dateOfDay(START + 14), dateOfDay(START + 24)];
    await enterBreak(runtime, SYSTEM_VIEWER, { course: 'DRY', from, to });
    await recalculate(runtime);
    await readAllPast(runtime);
    expect(await driftNow(runtime, day)).not.toEqual(before);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });
});
