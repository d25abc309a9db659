/** The access log's first pages, Reach and the chart: with ten times the events, and against queries by hand. */
import { rmSync } from 'node:fs';
import { withRaw, type RawConnection } from '@/data/db';
import { countOpenLog, openLog, readLog } from '@/server/access/access-log';
import { dailyOpens } from '@/server/item-use/opens';
import { itemUseOf } from '@/server/item-use/item-use';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { evidence } from './evidence-data';
import { percentile, repeat, report } from './measure';

const PAGE = 100;
const TIMES = 25;

/** Filters, as a link has them and as SQL conditions with the indexes that could serve. */
interface Case {
  name: string;
  asked: Record<string, string>;
  where: string;
  indexes: readonly string[];
}

const COURSE = "course_id = (SELECT id FROM course WHERE code = 'C2')";
const GROUP = `${COURSE} AND learner_id IN (SELECT learner_id FROM enrolment JOIN course_group g ON g.id = enrolment.group_id WHERE g.name = 'A' AND g.course_id = (SELECT id FROM course WHERE code = 'C2'))`;
const ORGANISATION =
  "learner_id IN (SELECT learner.id FROM learner JOIN organisation o ON o.id = organisation_id WHERE o.name = 'Partner 3')";
const LEARNER = "learner_id = (SELECT id FROM learner WHERE external_id = 'B121')";
const ITEM = "item_id = (SELECT id FROM item WHERE external_id = 'C2-21')";
const UNIT = `item_id IN (SELECT item.id FROM item JOIN unit ON unit.id = unit_id WHERE unit.title = 'Week 4' AND unit.${COURSE})`;
const ACTION = "action_id = (SELECT id FROM action WHERE word = 'posted')";
const KIND = "action_id IN (SELECT id FROM action WHERE kind = 'talked')";
const PERIOD = `at >= ${Date.UTC(2026, 9, 20)} AND at < ${Date.UTC(2026, 9, 25)}`;
const BY = { period: { from: '2026-10-20T00:00:00Z', to: '2026-10-25T00:00:00Z' } };

const SINGLE: Case[] = [
  { name: 'everything', asked: {}, where: '1', indexes: ['event_at'] },
  { name: 'course', asked: { course: 'C2' }, where: COURSE, indexes: ['event_course', 'event_at'] },
  {
    name: 'group',
    asked: { course: 'C2', group: 'A' },
    where: GROUP,
    indexes: ['event_learner', 'event_course', 'event_at'],
  },
  {
    name: 'organisation',
    asked: { organisation: 'Partner 3' },
    where: ORGANISATION,
    indexes: ['event_learner', 'event_at'],
  },
  { name: 'learner', asked: { learner: 'B121' }, where: LEARNER, indexes: ['event_learner'] },
  { name: 'item', asked: { course: 'C2', item: 'C2-21' }, where: ITEM, indexes: ['event_item', 'event_course'] },
  { name: 'unit', asked: { course: 'C2', unit: 'Week 4' }, where: UNIT, indexes: ['event_item', 'event_course'] },
  { name: 'action', asked: { action: 'posted' }, where: ACTION, indexes: ['event_action', 'event_at'] },
  { name: 'kind', asked: { kind: 'talked' }, where: KIND, indexes: ['event_action', 'event_at'] },
  { name: 'period', asked: BY.period, where: PERIOD, indexes: ['event_at'] },
];

const both = (a: Case, b: Case): Case => ({
  name: `${a.name} and ${b.name}`,
  asked: { ...a.asked, ...b.asked },
  where: `${a.where} AND ${b.where}`,
  indexes: [...new Set([...a.indexes, ...b.indexes])],
});
const single = (name: string) => SINGLE.find((one) => one.name === name)!;
const PAIRS = (
  [
    ['course', 'action'],
    ['course', 'period'],
    ['group', 'kind'],
    ['group', 'period'],
    ['organisation', 'kind'],
    ['organisation', 'course'],
    ['learner', 'kind'],
    ['learner', 'period'],
    ['item', 'group'],
    ['unit', 'kind'],
  ] as const
).map(([a, b]) => both(single(a), single(b)));

async function ours(runtime: Runtime, asked: Record<string, string>): Promise<number> {
  return (await readLog(runtime, await openLog(runtime, SYSTEM_VIEWER, asked), { limit: PAGE })).rows.length;
}

function byHand(raw: RawConnection, { where }: Case, index: string): number {
  return raw
    .prepare(
      `SELECT event.id, event.at, learner.external_id, learner.given_name || ' ' || learner.family_name, course.code,
         item.external_id, item.title, action.word, action.kind, event.address
       FROM (SELECT id FROM event INDEXED BY ${index} WHERE learner_id IS NOT NULL AND ${where} ORDER BY at DESC, id DESC LIMIT ${PAGE}) p
       CROSS JOIN event ON event.id = p.id JOIN course ON course.id = event.course_id JOIN action ON action.id = event.action_id
       LEFT JOIN learner ON learner.id = event.learner_id LEFT JOIN item ON item.id = event.item_id`,
    )
    .all().length;
}

/** The hand-written queries worth repeating: those not far slower than the best at first sight. */
async function worthRepeating(runtime: Runtime, one: Case): Promise<string[]> {
  const first: [string, number][] = [];
  for (const index of one.indexes) {
    const run = () => withRaw(runtime.db, (raw) => byHand(raw, one, index));
    const [ms] = await repeat(1, run).catch(() => [Infinity]);
    if (ms < Infinity) first.push([index, ms]);
  }
  const best = Math.min(...first.map(([, ms]) => ms));
  return first.filter(([, ms]) => ms <= 10 * best).map(([index]) => index);
}

interface Medians {
  few: number;
  many: number;
  hand: number;
}

/** Ours with few and with many, and the fastest by hand, in turns: a slow moment falls on all of them. */
async function measure(few: Runtime, many: Runtime, one: Case): Promise<Medians> {
  const indexes = await worthRepeating(many, one);
  const spent = { few: [] as number[], many: [] as number[] };
  const hand = new Map<string, number[]>(indexes.map((index) => [index, []]));
  await repeat(3, () => ours(few, one.asked));
  await repeat(3, () => ours(many, one.asked));
  for (let i = 0; i < TIMES; i += 1) {
    spent.few.push(...(await repeat(1, () => ours(few, one.asked))));
    spent.many.push(...(await repeat(1, () => ours(many, one.asked))));
    for (const index of indexes) {
      hand.get(index)!.push(...(await repeat(1, () => withRaw(many.db, (raw) => byHand(raw, one, index)))));
    }
  }
  const median = (values: number[]) => percentile(values, 0.5);
  return { few: median(spent.few), many: median(spent.many), hand: Math.min(...[...hand.values()].map(median)) };
}

export async function benchEvidence(rows: number): Promise<void> {
  const few = await evidence(rows / 10);
  const many = await evidence(rows);
  try {
    for (const one of [...SINGLE, ...PAIRS]) {
      const ms = await measure(few.runtime, many.runtime, one);
      const times = `${ms.many.toFixed(2)} ms against ${ms.hand.toFixed(2)} by hand, ${ms.few.toFixed(2)} with a tenth`;
      report(`log by ${one.name}, against by hand`, ms.many / ms.hand, 3, times);
      report(`log by ${one.name}, growth`, ms.many / ms.few, 1.3, times);
    }
    const grows = async (name: string, work: (runtime: Runtime) => Promise<unknown>) => {
      const spent: number[] = [];
      for (const { runtime } of [few, many]) {
        await repeat(3, () => work(runtime));
        spent.push(percentile(await repeat(TIMES, () => work(runtime)), 0.5));
      }
      report(name, spent[1] / spent[0], 1.3, `${spent[1].toFixed(1)} ms against ${spent[0].toFixed(1)} ms`);
    };
    await grows('Reach of a course, growth', (runtime) => itemUseOf(runtime, SYSTEM_VIEWER, { course: 'C2' }));
    await grows('opens per day of a course, growth', (runtime) =>
      dailyOpens(runtime, SYSTEM_VIEWER, { course: 'C2', by: 'kind' }),
    );
    await grows('counts per day of a course’s log, growth', async (runtime) =>
      countOpenLog(runtime, await openLog(runtime, SYSTEM_VIEWER, { course: 'C2' })),
    );
  } finally {
    for (const { runtime, dir } of [few, many]) {
      await runtime.db.destroy();
      rmSync(dir, { recursive: true, force: true });
    }
  }
}
