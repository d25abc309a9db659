import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';
import { dayOf } from '@/core/time/zone';
import { checkAll } from '../check';
import { DRIFT, WATCH } from './watch-list';
import { readAllPast, recalculate } from './recalculate';
import { noticesOf } from './notices';
import { listGaps } from '@/data/feed/feed-gaps';
import { settleGap } from '../feed/feed';
import { openDriftView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { askList, bringIn, testRuntime, type TestRuntime } from '../testing';

const sample = (name: string) => readFileSync(join(process.cwd(), 'samples', 'small', name)).toString();
/** A file of the small sample; the log, which comes in two overlapping pieces, as one. */
const file = (name: string) =>
  name === 'access-log.csv'
    ? [...new Set([1, 2].flatMap((piece) => sample(`access-log-${piece}.csv`).trimEnd().split('\n')))].join('\n')
    : sample(name);
const NOW = '2026-11-24T09:10:00Z';

let runtime: TestRuntime;
afterEach(() => runtime.close());

/** The small institution with some of its files. */
async function known(...kinds: readonly string[]): Promise<void> {
  runtime = await testRuntime(NOW, 'Europe/Dublin');
  for (const kind of ['outline', 'roster', ...kinds]) {
    if (kind === 'log') await bringIn(runtime, 'access-log', file('access-log.csv'));
    else if (kind === 'log-without-hand-ins') {
      const lines = file('access-log.csv').split('\n');
      await bringIn(runtime, 'access-log', lines.filter((line) => !line.includes(',submitted,')).join('\n'));
    } else await bringIn(runtime, kind, file(`${kind}.csv`));
  }
}

type DriftRow = {
  learner_id: string;
  course: string;
  drift: number | null;
  band: string;
  judged_by: number;
  judged_of: number;
  stood_on: string | null;
  reasons: { factor: string; says: string }[];
};
const drift = async (as_of?: string) =>
  (await askList(DRIFT, runtime, SYSTEM_VIEWER, { limit: '1000', ...(as_of && { as_of }) }))
    .rows as unknown as DriftRow[];
const bands = async () => {
  const counts: Record<string, number> = {};
  for (const { band } of await drift()) counts[band] = (counts[band] ?? 0) + 1;
  return counts;
};
const factors = async () => new Set((await drift()).flatMap(({ reasons }) => reasons.map(({ factor }) => factor)));
const notices = async () => noticesOf(runtime, await openDriftView(runtime, SYSTEM_VIEWER, {}));

describe('an installation that tells little', () => {
  it('holds nobody to hand-ins that nobody tells of', async () => {
    await known('log-without-hand-ins');
    expect([...(await factors())].sort()).toEqual(['behind', 'quiet', 'talking', 'working']);
    const rows = await drift();
    expect(rows.every(({ judged_by, judged_of }) => judged_by <= 4 && judged_of === 10)).toBe(true);
    expect((await bands()).adrift ?? 0).toBeLessThanOrEqual(rows.length / 4);
    const found = await notices();
    expect(
      found.filter(({ course, what }) => course === 'HAT' && what === 'never_fed').map(({ kind }) => kind),
    ).toEqual(['hand_ins', 'grades', 'sessions'].filter((kind) => found.some((one) => one.kind === kind)));
    expect(found.find(({ kind }) => kind === 'hand_ins')?.says).toMatch(/^Nobody’s hand-ins are known/);
  });

  it('has nobody away, adrift or never there from a roster alone', async () => {
    await known();
    expect(await bands()).toEqual({ 'no reading': expect.any(Number) });
    const watch = (await askList(WATCH, runtime, SYSTEM_VIEWER, { limit: '1000' })).rows as { part: string }[];
    expect(new Set(watch.map(({ part }) => part))).toEqual(new Set(['now']));
  });

  it('takes the log’s hand-ins for those of items of which results tell nothing', async () => {
    await known('log');
    expect(await factors()).toContain('missing');
    const without = await drift();
    await bringIn(runtime, 'results', file('results.csv'));
    const withResults = await drift();
    expect(withResults.map(({ learner_id }) => learner_id).sort()).toEqual(without.map((one) => one.learner_id).sort());
    expect(await factors()).toContain('marks');
    expect((await checkAll(runtime)).problems).toEqual([]);
  });
});

describe('a log that has stopped', () => {
  it('leaves everybody as they stood, says so, and counts again once a lead says it was truly quiet', async () => {
    await known('log', 'results', 'sessions', 'marks');
    await readAllPast(runtime);
    const stood = new Map((await drift('2026-11-23')).map((row) => [`${row.learner_id} ${row.course}`, row]));
    runtime.setNow('2026-12-01T09:10:00Z');
    await recalculate(runtime);
    const later = await drift();
    // A grade that is dated later still counts from its day.
    for (const row of later) {
      const before = stood.get(`${row.learner_id} ${row.course}`)!;
      expect(Math.abs((row.drift ?? 0) - (before.drift ?? 0))).toBeLessThan(2);
    }
    expect(new Set(later.map(({ stood_on }) => stood_on))).toEqual(new Set(['2026-11-23']));
    expect((await notices()).filter(({ what, kind }) => what === 'stopped' && kind === null)).toMatchObject([
      { course: 'HAT', since: '2026-11-23' },
      { course: 'SBE', since: '2026-11-23' },
    ]);
    const [gap] = await listGaps(runtime.db, SYSTEM_VIEWER);
    await settleGap(runtime, SYSTEM_VIEWER, gap.id, false);
    await recalculate(runtime);
    const counted = await bands();
    expect((counted.slipping ?? 0) + (counted.adrift ?? 0)).toBeGreaterThan(
      later.filter(({ band }) => band === 'slipping' || band === 'adrift').length,
    );
    await settleGap(runtime, SYSTEM_VIEWER, gap.id, true);
    await recalculate(runtime);
    expect((await drift()).map(({ drift: score }) => score)).toEqual(later.map(({ drift: score }) => score));
  });

  it('is as it should be where its courses have ended', async () => {
    await known('log');
    await runtime.db('course').update({ ends_day: dayOf(runtime.clock.now(), runtime.zone) - 1 });
    runtime.setNow('2026-12-08T09:10:00Z');
    await recalculate(runtime);
    expect((await listGaps(runtime.db, SYSTEM_VIEWER)).filter(({ state }) => state === 'stopped')).toEqual([]);
  });

  it('is read anew when what was missing comes', async () => {
    await known('results');
    const lines = file('access-log.csv').split('\n');
    const until = (day: string) => [lines[0], ...lines.slice(1).filter((line) => line < day)].join('\n');
    await bringIn(runtime, 'access-log', until('2026-11-16'));
    expect((await notices()).some(({ what, kind }) => what === 'stopped' && kind === null)).toBe(true);
    await bringIn(runtime, 'access-log', file('access-log.csv'));
    await recalculate(runtime);
    const late = await drift();
    await runtime.close();
    await known('results', 'log');
    expect(await drift()).toEqual(late);
  });
});

describe('whoever came late', () => {
  it('is held to what they could do', async () => {
    await known('log', 'results');
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,family_name,course,group,enrolled_on\nNEW,Ada,Newcome,HAT,A,2026-11-15\n',
    );
    // Twelve items opened and one quiz handed in since: as much as their plan has by now.
    const items = [1, 2, 3, 4, 5, 6].flatMap((n) => [`HAT-0${n}-1`, `HAT-0${n}-2`]);
    await bringIn(
      runtime,
      'access-log',
      `time,learner_id,course,item_id,action\n${items.map((id, i) => `2026-11-${16 + (i % 8)}T10:00:00Z,NEW,HAT,${id},opened\n`).join('')}`,
    );
    await bringIn(
      runtime,
      'results',
      `learner_id,course,item_id,attempt,submitted_at\n${[3, 4].map((n) => `NEW,HAT,HAT-08-${n},1,2026-11-21T10:00:00Z\n`).join('')}`,
    );
    const own = (await drift()).find(({ learner_id }) => learner_id === 'NEW')!;
    expect(own).toMatchObject({ band: 'on course' });
    expect(own.reasons.find(({ factor }) => factor === 'missing')?.says).toMatch(/^Handed in all 2 assignments/);
    expect(own.reasons.find(({ factor }) => factor === 'behind')?.says).toMatch(/^0\.\d weeks behind plan/);
    expect(own.reasons.some(({ factor }) => factor === 'working' || factor === 'talking')).toBe(false);
  });
});

describe('a course without dates', () => {
  it('has no plan, says so, and is asked for them', async () => {
    runtime = await testRuntime(NOW, 'Europe/Dublin');
    const outline = file('outline.csv')
      .replaceAll(',2026-09-28,2026-12-21,', ',,,')
      .replaceAll(/(HAT-0\d-\d,[^,]*,[a-z]+,yes,[^,]*),[^,]*/g, '$1,');
    await bringIn(runtime, 'outline', outline);
    for (const kind of ['roster', 'access-log', 'results']) await bringIn(runtime, kind, file(`${kind}.csv`));
    expect(await factors()).not.toContain('behind');
    expect((await notices()).filter(({ what }) => what === 'no_dates').map(({ course }) => course)).toEqual([
      'HAT',
      'SBE',
    ]);
  });
});
