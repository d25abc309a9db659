/** The plans of every query that serves a page: none walks a whole table that grows with the log. */
import { afterAll, beforeAll, expect, it } from 'vitest';
import { TIMELINE_KINDS } from '@/core/contact/timeline';
import { withRaw, type RawConnection } from '@/data/db';
import { findFollowUps } from '@/data/contact/follow-ups';
import { LEARNER_COLUMNS } from '@/data/people/learner-columns';
import { findLearner } from '@/data/people/learners';
import { outboxCounts, outboxPage } from '@/data/contact/messages';
import { findNotes } from '@/data/contact/notes';
import type { Viewer } from '@/data/scope';
import { countOpenLog, openLog, readLog } from './access/access-log';
import { checkClaim } from './access/claim';
import { everythingOf } from './access/everything';
import { find } from './people/find';
import { openFollowUps } from './contact/follow-ups';
import { whoDid } from './item-use/who-did';
import { learnerDetail } from './people/learner-detail';
import { learnerList } from './people/learner-list';
import { learnerExtras, learnerPage, visitEvents } from './people/learner-page';
import { rightNow } from './access/live/now';
import { dailyOpens } from './item-use/opens';
import { ITEM_USE, visits } from './item-use/item-use';
import { SMALL, bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from './testing';
import { timelineOf } from './people/timeline';
import { openView, openDriftView } from './request/view';
import { watchNames, watchPage } from './drift/watch';

const GROWING = ['event', 'item_day', 'visit_course', 'learner_day', 'packed_day', 'statement'];
let runtime: TestRuntime;
const asked = new Set<string>();

beforeAll(async () => {
  runtime = await testRuntime();
  for (const kind of ['outline', 'roster', 'staff'] as const) await bringIn(runtime, kind, SMALL[kind]);
  await bringIn(
    runtime,
    'access-log',
    logOf(['2026-11-20T10:00:00Z,L1,DRY,D1,opened', '2026-11-21T10:00:00Z,L3,NET,N1,posted']),
  );
  // From here on every text is noted; those prepared before are thrown away with their connection.
  await withRaw(runtime.db, (raw) => {
    const prepare = raw.prepare.bind(raw);
    const noting = (sql: string) => {
      asked.add(sql);
      return prepare(sql);
    };
    Object.defineProperty(raw, 'prepare', { value: noting });
  });
});
afterAll(() => runtime.close());

async function openEveryScreen(viewer: Viewer, part: Record<string, string>): Promise<void> {
  const view = await openDriftView(runtime, viewer, part);
  const past = await openDriftView(runtime, viewer, part, '2026-11-22');
  const moment = await openView(runtime, viewer, part);
  const quietly = <T>(work: Promise<T>): Promise<T | null> => work.catch(() => null);
  for (const at of [view, past]) {
    await watchPage(runtime, at, { part: 'now', band: null, drift: null }, 1);
    await watchNames(runtime, at);
  }
  for (const sort of Object.keys(LEARNER_COLUMNS).filter((name) => name !== 'band'))
    await learnerList(runtime, viewer, { ...part, sort: `-${sort}` });
  const filters: Record<string, string>[] = [
    { q: 'ines' },
    { quiet: '7' },
    { never: 'yes' },
    { band: 'adrift' },
    { not_contacted: '7' },
    { enrolled_weeks: '2' },
    { opened: 'DRY/D1' },
    { not_opened: 'DRY/D1', opened_from: '2026-11-01' },
    { opened: 'DRY/D1', first_opened_since: '2026-11-17T00:00:00Z' },
    { as_of: '2026-11-22', sort: '-days_quiet' },
    { status: 'all' },
  ];
  for (const filter of filters) await quietly(learnerList(runtime, viewer, { ...part, ...filter }));
  const logs: Record<string, string>[] = [
    {},
    { item: 'D1' },
    { unit: 'Week 1' },
    { action: 'opened' },
    { kind: 'talked' },
    { learner: 'L1' },
    { learner: 'L1', kind: 'looked' },
    { from: '2026-11-19', to: '2026-11-22' },
    { staff: 'only' },
    { as_of: '2026-11-22' },
    { kind: 'looked', from: '2026-11-19T10:00:00Z', to: '2026-11-22T09:00:00Z' },
  ];
  for (const filter of logs) {
    const log = await quietly(openLog(runtime, viewer, { ...part, ...filter }));
    if (!log) continue;
    const page = await readLog(runtime, log, { limit: 1 });
    if (page.older) await readLog(runtime, log, { limit: 1, cursor: page.older });
    await countOpenLog(runtime, log);
  }
  await ITEM_USE.read(runtime, viewer, { ...part });
  await ITEM_USE.read(runtime, viewer, { ...part, from: '2026-11-19', to: '2026-11-22' });
  for (const by of ['kind', 'group', 'role'])
    await quietly(dailyOpens(runtime, viewer, { course: 'DRY', ...part, by }));
  const deeds: Record<string, string>[] = [
    { item: 'D1' },
    { unit: 'Week 1' },
    { kind: 'talked' },
    { action: 'opened' },
    { item_kind: 'quiz' },
  ];
  for (const deed of deeds) {
    await quietly(whoDid(runtime, viewer, { ...part, ...deed }));
    await quietly(
      whoDid(runtime, viewer, { ...part, ...deed, from: '2026-11-19T10:00:00Z', to: '2026-11-22T09:00:00Z' }),
    );
  }
  await rightNow(runtime, moment, {});
  await find(runtime, view, 'in');
  await openFollowUps(runtime, view, { whose: 'all', state: null, page: 1 });
  await findFollowUps(runtime.db, view, { state: 'closed', limit: 10 });
  await outboxPage(runtime.db, view, null, { limit: 10 });
  await outboxCounts(runtime.db, view);
  await findNotes(runtime.db, view, { limit: 10, q: 'x' });
  const id = await findLearner(runtime.db, viewer, 'L1');
  if (id === null) return;
  const person = await quietly(learnerPage(runtime, view, 'L1'));
  if (!person) return;
  await learnerExtras(runtime, view, person);
  await learnerDetail(runtime, viewer, 'L1');
  await visitEvents(runtime, view, id, { first: 0, last: 2e12 });
  await timelineOf(runtime, view, id, { kinds: [...TIMELINE_KINDS], before: null });
  await everythingOf(runtime, moment, id, {});
  await checkClaim(runtime, view, id, { from: '2026-11-01', to: '2026-11-24' });
  await visits(runtime, viewer, { ...part, learner: 'L1' });
}

interface Step {
  id: number;
  parent: number;
  detail: string;
}

function planOf(raw: RawConnection, sql: string): Step[] {
  // A plan goes by the text alone; some number stands for what would be bound.
  const filled = sql.replace(/\?\d*|[@:][a-zA-Z_]\w*/g, '1');
  return raw.prepare(`EXPLAIN QUERY PLAN ${filled}`).all() as Step[];
}

/** Steps of a query's plan that are done once more for each row, and go through what is joined or everybody's readings of a day. */
function walksForEach(raw: RawConnection, sql: string): string[] {
  const steps = planOf(raw, sql);
  const byId = new Map(steps.map((step) => [step.id, step]));
  const isForEach = (step: Step | undefined): boolean =>
    step !== undefined && (/^CORRELATED/.test(step.detail) || isForEach(byId.get(step.parent)));
  return steps
    .filter(
      (step) =>
        /^SCAN \w+ LEFT-JOIN/.test(step.detail) ||
        (isForEach(step) && /drift_reading_day \(day=\?\)/.test(step.detail)),
    )
    .map(({ detail }) => detail);
}

/** Steps of a query's plan that walk the whole of a table that grows with the log. */
function wholeWalks(raw: RawConnection, sql: string): string[] {
  const aliases = new Map(GROWING.map((table) => [table, table]));
  for (const [, table, alias] of sql.matchAll(
    /\b(event|item_day|visit_course|learner_day|packed_day|statement)`?\s+(?:as|AS)\s+`?(\w+)`?/g,
  )) {
    aliases.set(alias, table);
  }
  const details = planOf(raw, sql).map(({ detail }) => detail);
  return details.filter((detail) => {
    const scanned = /^SCAN (\w+)/.exec(detail)?.[1];
    if (scanned === undefined || !aliases.has(scanned)) return false;
    // From an end of an index until a page is full is no whole walk.
    return !(/USING (COVERING )?INDEX event_/.test(detail) && /\blimit\b/i.test(sql));
  });
}

it('no page walks the whole of the log or of what is derived from it, nor anything for each row', async () => {
  const emails = [
    'lead@staff.example',
    'mentor@staff.example',
    'instructor@staff.example',
    'norrick@partner.example',
    'one@staff.example',
  ];
  const parts: Record<string, string>[] = [
    {},
    { course: 'DRY' },
    { course: 'DRY', group: 'A' },
    { organisation: 'Norrick' },
  ];
  for (const email of emails) {
    const viewer = await viewerByEmail(runtime, email);
    for (const part of parts)
      await openEveryScreen(viewer, part).catch((error: Error) => expect(error.message).toContain('No such'));
  }
  const texts = [...asked].filter((sql) => /^\s*(select|with)/i.test(sql));
  expect(texts.length).toBeGreaterThan(150);
  const walks = await withRaw(runtime.db, (raw) =>
    texts.flatMap((sql) =>
      [...wholeWalks(raw, sql), ...walksForEach(raw, sql)].map(
        (step) => `${step}: ${sql.replace(/\s+/g, ' ').slice(0, 400)}`,
      ),
    ),
  );
  expect(walks).toEqual([]);
});
