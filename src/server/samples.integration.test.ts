import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { countOf } from '@/data/db';
import { visitsOfLearners } from '@/data/access/visits';
import { findLearner } from '@/data/people/learners';
import { checkAll } from './check';
import { isoOrNull, minutes } from './request/values';
import { learnerDetail } from './people/learner-detail';
import { learnerList } from './people/learner-list';
import { whoDid } from './item-use/who-did';
import { headingsOf } from './request/list';
import { ACCESS_LOG } from './access/log-list';
import { ITEM_USE, visits } from './item-use/item-use';
import { SYSTEM_VIEWER } from './system-viewer';
import { sampleAnswer } from '@/sample-answers';
import { askList, bringIn, counts, testRuntime, type TestRuntime } from './testing';

const file = (name: string) => readFileSync(join(process.cwd(), 'samples', name));

let runtime: TestRuntime;

beforeAll(async () => {
  const { now, timezone } = sampleAnswer('counts');
  runtime = await testRuntime(now, timezone);
});
afterAll(() => runtime.close());

describe('the small sample', () => {
  it('is taken whole, and overlapping files add nothing twice', async () => {
    const expected = sampleAnswer('counts');
    expect(counts(await bringIn(runtime, 'outline', file('small/outline.csv')))).toMatchObject({
      accepted: expected.items,
      rejected: 0,
    });
    expect(counts(await bringIn(runtime, 'roster', file('small/roster.csv')))).toMatchObject({
      accepted: expected.enrolments,
      rejected: 0,
    });
    expect(counts(await bringIn(runtime, 'staff', file('small/staff.csv')))).toMatchObject({
      accepted: 3,
      rejected: 0,
    });
    const first = await bringIn(runtime, 'access-log', file('small/access-log-1.csv'));
    const second = await bringIn(runtime, 'access-log', file('small/access-log-2.csv'));
    expect(first.accepted + second.accepted).toBe(expected.events);
    expect(counts(await bringIn(runtime, 'access-log', file('small/access-log-1.csv')))).toMatchObject({
      accepted: 0,
      duplicate: first.read,
    });
    expect(await countOf(runtime.db('event').whereNotNull('learner_id'))).toBe(expected.learner_events);
  });

  it('gives the last access, days quiet and minutes worked out independently', async () => {
    for (const [id, expected] of Object.entries(
      sampleAnswer('learners') as Record<string, { last_access: string | null; days_quiet: number | null }>,
    )) {
      const detail = await learnerDetail(runtime, SYSTEM_VIEWER, id);
      expect([id, detail.last_access, detail.days_quiet]).toEqual([id, expected.last_access, expected.days_quiet]);
      for (const enrolment of detail.enrolments) {
        const key = `${id}|${enrolment.course}`;
        expect([key, enrolment.minutes_online]).toEqual([key, sampleAnswer('minutes')[key] ?? 0]);
      }
    }
  });

  it('gives every visit', async () => {
    const view = SYSTEM_VIEWER;
    for (const [id, expected] of Object.entries(sampleAnswer('visits') as Record<string, unknown[]>)) {
      const learner = (await findLearner(runtime.db, view, id))!;
      const rows = await visitsOfLearners(runtime.db, view, {}, [learner], {});
      const visits = rows.reverse().map((visit) => ({
        start: isoOrNull(visit.first),
        end: isoOrNull(visit.last),
        minutes: minutes(visit.ms),
        events: visit.events,
      }));
      expect([id, visits]).toEqual([id, expected]);
    }
  });

  it('gives item use, who did and who did not, and visits through the server as worked out independently', async () => {
    const { rows } = await askList(ITEM_USE, runtime, SYSTEM_VIEWER, { limit: '1000' });
    const expected = sampleAnswer('item-use') as Record<string, Record<string, unknown>>;
    expect(rows.map((row) => row.item_id).sort()).toEqual(Object.keys(expected).sort());
    for (const row of rows)
      expect([row.item_id, row]).toEqual([row.item_id, expect.objectContaining(expected[String(row.item_id)])]);
    for (const [item, { frm, to, did, did_not }] of Object.entries(
      sampleAnswer('who-did') as Record<
        string,
        { frm: string; to: string; did: Record<string, number>; did_not: string[] }
      >,
    )) {
      const found = await whoDid(runtime, SYSTEM_VIEWER, { item, kind: 'talked', from: frm, to });
      expect([item, Object.fromEntries(found.did.map((row) => [row.learner_id, row.count]))]).toEqual([item, did]);
      expect([item, found.did_not.map((row) => row.learner_id).sort()]).toEqual([item, did_not]);
    }
    const own = await visits(runtime, SYSTEM_VIEWER, { learner: 'L210000', limit: '3' });
    const all = sampleAnswer('visits').L210000;
    expect(own.total).toBe(all.length);
    expect(own.rows[0]).toMatchObject({ ...all.at(-1), courses: ['SBE'] });
  });

  it('gives the whole access log through the API, page by page, with exact totals, and as a file', async () => {
    const { events, learner_events } = sampleAnswer('counts');
    const ask = async (values: Record<string, string>) =>
      (await ACCESS_LOG.answer(runtime, SYSTEM_VIEWER, values)).json();
    expect((await ask({ limit: '1' })).total).toBe(learner_events);
    expect((await ask({ limit: '1', staff: 'only' })).total).toBe(events - learner_events);
    const seen: Record<string, string>[] = [];
    let page = await ask({ staff: 'yes', limit: '1000' });
    expect(page).not.toHaveProperty('about');
    for (;;) {
      seen.push(...page.data);
      if (page.next === null) break;
      page = await ask({ staff: 'yes', limit: '1000', cursor: page.next });
    }
    expect(seen).toHaveLength(events);
    expect(Object.keys(seen[0])).toEqual(headingsOf(ACCESS_LOG));
    expect(seen.map((row) => row.time)).toEqual([...seen.map((row) => row.time)].sort().reverse());
    // The events of each visit that was worked out independently.
    for (const [learner, visits] of Object.entries(sampleAnswer('visits') as Record<string, { events: number }[]>)) {
      const own = visits.reduce((sum, visit) => sum + visit.events, 0);
      expect([learner, (await ask({ learner, limit: '1' })).total]).toEqual([learner, own]);
    }
    // Opens of each item, whoever is enrolled now.
    const opens = seen.filter((row) => row.item_id !== null && row.kind !== 'other').length;
    const kinds = await Promise.all(
      ['looked', 'worked', 'talked'].map((kind) => ask({ kind, staff: 'yes', limit: '1' })),
    );
    expect(kinds.reduce((sum, { total }) => sum + total, 0)).toBeGreaterThanOrEqual(opens);
    const csv = await (await ACCESS_LOG.answer(runtime, SYSTEM_VIEWER, { format: 'csv', staff: 'yes' })).text();
    expect(csv.trimEnd().split('\r\n')).toHaveLength(events + 1);
    await expect(ask({ format: 'pdf' })).rejects.toThrow('format is not one of');
  });

  it('finds those quiet for 7 days or more, or never there', async () => {
    const { rows, total } = await learnerList(runtime, SYSTEM_VIEWER, { quiet: '7', sort: 'learner_id' });
    expect(rows.map((row) => row.learner_id)).toEqual(sampleAnswer('quiet7'));
    expect(total).toBe(sampleAnswer('quiet7').length);
  });

  it('has derived figures that equal those made anew', async () => {
    expect((await checkAll(runtime)).problems).toEqual([]);
  });
});

describe('bad files', () => {
  it('lose their bad rows alone, each with line, field and reason', async () => {
    const run = await bringIn(runtime, 'access-log', file('bad/access-log-mixed.csv'));
    expect(counts(run)).toEqual({ state: 'done', read: 9, accepted: 2, duplicate: 0, rejected: 7 });
    const lines = readFileSync(join(runtime.settings.dataDir, 'rejects', `${run.id}.csv`), 'utf8')
      .trim()
      .split('\r\n');
    expect(lines[0]).toBe('line,field,reason,time,learner_id,course,item_id,action,address,event_id');
    expect(lines.slice(1).map((line) => line.split(',').slice(0, 2).join(' '))).toEqual([
      '3 time',
      '4 learner_id',
      '5 course',
      '6 item_id',
      '7 learner_id',
      '8 time',
      '9 event_id',
    ]);
    const [words] = await runtime.db('action').where('word', 'a word, nobody mapped');
    expect(words.kind).toBe('other');
  });

  it('with a heading alone are done with nothing read', async () => {
    expect(counts(await bringIn(runtime, 'access-log', file('bad/header-only.csv')))).toMatchObject({
      state: 'done',
      read: 0,
    });
  });

  it.each(['empty', 'picture', 'wrong-columns'])('%s is refused whole, and nothing changes', async (name) => {
    const before = await countOf(runtime.db('event'));
    const run = await bringIn(runtime, 'access-log', file(`bad/${name}.csv`));
    expect(run).toMatchObject({ state: 'failed', read: 0, accepted: 0 });
    expect(run.error).toMatch(/empty|not text|None of its columns/);
    expect(await countOf(runtime.db('event'))).toBe(before);
  });
});
