import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { countLog } from '@/data/access/log/counts';
import type { LogRow } from '@/data/access/log/page';
import { dayOf } from '@/core/time/zone';
import { openLog, readLog, type OpenLog } from './access-log';
import { checkAll } from '../check';
import { NotFound } from '../request/input';
import { exportLog, exportProgress, type LogFormat } from './log-export';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';

let runtime: TestRuntime;
const LEARNERS = { L1: 'DRY', L2: 'DRY', L3: 'NET', L4: 'DRY', L5: 'DRY', S3: 'DRY' } as const;
const ACTIONS = { opened: 'looked', submitted: 'worked', posted: 'talked', signed_in: 'other' } as const;

interface Made {
  at: number;
  who: keyof typeof LEARNERS;
  course: string;
  item: string;
  action: keyof typeof ACTIONS;
}

/** A few hundred events over forty days, some at the very same second. */
function makeEvents(): Made[] {
  const made: Made[] = [];
  const people = Object.keys(LEARNERS) as Made['who'][];
  const actions = Object.keys(ACTIONS) as Made['action'][];
  for (let i = 0; i < 600; i += 1) {
    const who = people[(i * 7) % people.length];
    const course = who === 'L1' && i % 4 === 0 ? 'NET' : LEARNERS[who];
    const action = actions[(i * 5 + (i >> 3)) % actions.length];
    const item = action === 'signed_in' ? '' : course === 'NET' ? 'N1' : i % 2 ? 'D1' : 'D2';
    made.push({ at: Date.parse('2026-10-14T06:00:00Z') + Math.floor(i / 3) * 17_000_000, who, course, item, action });
  }
  return made;
}

const events = makeEvents();
const inLog = (e: Made) => `${new Date(e.at).toISOString()},${e.who},${e.course},${e.item},${e.action}`;

beforeAll(async () => {
  runtime = await smallRuntime(events.map(inLog));
});
afterAll(() => runtime.close());

interface Asked {
  learner?: string;
  course?: string;
  group?: string;
  organisation?: string;
  item?: string;
  unit?: string;
  kind?: string;
  action?: string;
  staff?: string;
  from?: string;
  to?: string;
}

const GROUPS: Record<string, string> = { L1: 'A', L2: 'B', L3: 'A', L4: 'A', L5: 'A' };
const PARTNERS: Record<string, string> = { L1: 'Norrick', L2: 'Penhallow', L3: 'Penhallow', L5: 'Norrick' };

/** The plain reading of the filters, event by event. */
function plainly(asked: Asked): Made[] {
  const isStaff = (e: Made) => e.who === 'S3';
  return events
    .filter((e) => (asked.staff === 'yes' ? true : asked.staff === 'only' ? isStaff(e) : !isStaff(e)))
    .filter((e) => !asked.learner || e.who === asked.learner)
    .filter((e) => !asked.course || e.course === asked.course)
    .filter((e) => !asked.group || (!isStaff(e) && e.course === 'DRY' && GROUPS[e.who] === asked.group))
    .filter((e) => !asked.organisation || PARTNERS[e.who] === asked.organisation)
    .filter((e) => !asked.item || e.item === asked.item)
    .filter((e) => !asked.unit || e.item !== '')
    .filter(
      (e) =>
        !asked.kind || ACTIONS[e.action] === asked.kind || (asked.kind === 'opens' && ACTIONS[e.action] !== 'other'),
    )
    .filter((e) => !asked.action || e.action === asked.action)
    .filter((e) => !asked.from || e.at >= Date.parse(asked.from))
    .filter((e) => !asked.to || e.at < Date.parse(asked.to));
}

async function everyPage(values: Asked, limit: number, viewer: Viewer = SYSTEM_VIEWER) {
  const open = await openLog(runtime, viewer, { ...values });
  const rows = [];
  let cursor: string | undefined;
  for (;;) {
    const page = await readLog(runtime, open, { limit, cursor });
    rows.push(...page.rows);
    if (page.older === null) return { rows, open };
    cursor = page.older;
  }
}

const sign = (at: number, who: string, item: string | null, action: string) => `${at}/${who}/${item ?? ''}/${action}`;

/** Counts are those of the rows, one by one or by what is kept of each day, or say about. */
async function expectCounts({ view: scope, filter, kinds }: OpenLog, rows: readonly LogRow[]): Promise<boolean> {
  const byDay = new Map<number, number>();
  for (const { at } of rows) {
    const day = dayOf(at, runtime.zone);
    byDay.set(day, (byDay.get(day) ?? 0) + 1);
  }
  const counts = [];
  for (const few of [undefined, 0]) {
    const count = await countLog(runtime.db, { scope, filter, kinds, zone: runtime.zone, few });
    counts.push(count);
    if (count.about) continue;
    expect(count.total).toBe(rows.length);
    expect(new Map(count.days.map(({ day, events: n }) => [day, n]))).toEqual(byDay);
  }
  return counts[0].about;
}

const maybe = <T>(values: readonly T[]) => fc.option(fc.constantFrom(...values), { nil: undefined, freq: 2 });
const askedOf = fc.record({
  learner: maybe(['L1', 'L4', 'L5']),
  course: fc.constantFrom(undefined, 'DRY'),
  group: maybe(['A', 'B']),
  organisation: maybe(['Norrick', 'Penhallow']),
  item: maybe(['D1', 'D2']),
  unit: maybe(['Week 1']),
  kind: maybe(['looked', 'talked', 'other', 'opens']),
  action: maybe(['opened', 'submitted']),
  staff: maybe(['yes', 'only', 'no']),
  from: maybe(['2026-10-25T00:00:00Z', '2026-11-01T12:34:56Z']),
  to: maybe(['2026-11-09T00:00:00Z', '2026-11-10T08:00:00Z']),
});

describe('the access log', () => {
  it('gives exactly the events that a plain reading of any combination of filters gives, page by page', async () => {
    await fc.assert(
      fc.asyncProperty(askedOf, async (any) => {
        // A group's name is read beside its course.
        const asked: Asked = any.group ? { ...any, course: 'DRY' } : any;
        const expected = plainly(asked);
        const { rows, open } = await everyPage(asked, 37);
        expect(rows.map((row) => row.at)).toEqual([...rows.map((row) => row.at)].sort((a, b) => b - a));
        expect(rows.map((row) => sign(row.at, row.learner_id, row.item_id, row.action)).sort()).toEqual(
          expected.map((e) => sign(e.at, e.who, e.item, e.action)).sort(),
        );
        // Everything here is few enough to be counted.
        expect(await expectCounts(open, rows)).toBe(false);
      }),
      { numRuns: 120 },
    );
  });

  it('counts what a viewer is shown', async () => {
    const emails = ['mentor', 'instructor', 'one'].map((name) => `${name}@staff.example`);
    const viewers = await Promise.all(
      [...emails, 'norrick@partner.example'].map((name) => viewerByEmail(runtime, name)),
    );
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...viewers), askedOf, async (viewer, any) => {
        const asked: Asked = { ...any, learner: undefined, course: any.group ? 'DRY' : any.course };
        try {
          const { rows, open } = await everyPage(asked, 100, viewer);
          await expectCounts(open, rows);
        } catch (error) {
          // What is not theirs is not there.
          if (!(error instanceof NotFound)) throw error;
        }
      }),
      { numRuns: 80 },
    );
  });

  it('turns round at any place', async () => {
    const { rows, open } = await everyPage({ course: 'DRY' }, 50);
    const second = await readLog(runtime, open, {
      limit: 50,
      cursor: (await readLog(runtime, open, { limit: 50 })).older!,
    });
    const back = await readLog(runtime, open, { limit: 50, cursor: second.newer!, newer: true });
    expect(back.rows).toEqual(rows.slice(0, 50));
    expect(back.newer).toBeNull();
    expect(second.rows).toEqual(rows.slice(50, 100));
  });

  it('keeps to the viewer’s scope: group, organisation, course, and staff only with the whole course', async () => {
    const as = (email: string) => viewerByEmail(runtime, email);
    const who = async (email: string, values: Asked = {}) =>
      new Set((await everyPage(values, 1000, await as(email))).rows.map((row) => `${row.learner_id} ${row.course}`));
    expect(await who('mentor@staff.example', { staff: 'yes' })).toEqual(new Set(['L1 DRY', 'L4 DRY', 'L5 DRY']));
    expect(await who('norrick@partner.example', { staff: 'yes' })).toEqual(new Set(['L1 DRY', 'L1 NET', 'L5 DRY']));
    expect(await who('instructor@staff.example', { staff: 'yes' })).toEqual(
      new Set(['L1 DRY', 'L2 DRY', 'L4 DRY', 'L5 DRY', 'S3 DRY']),
    );
    expect(await who('one@staff.example')).toEqual(new Set(['L3 NET']));
    await expect(openLog(runtime, await as('one@staff.example'), { learner: 'L1' })).rejects.toThrow('No such learner');
    await expect(openLog(runtime, await as('mentor@staff.example'), { item: 'N1' })).rejects.toThrow('No such item');
    await expect(openLog(runtime, await as('norrick@partner.example'), { item: 'N1' })).resolves.toBeDefined();
  });

  it('says what is wrong with what is asked for', async () => {
    const ask = (values: Record<string, string>) => openLog(runtime, SYSTEM_VIEWER, values);
    await expect(ask({ from: '2026-11-10', to: '2026-11-09' })).rejects.toThrow('to does not lie after from');
    await expect(ask({ from: '2026-02-30' })).rejects.toThrow('from is not a time');
    await expect(ask({ kind: 'glimpsed' })).rejects.toThrow('kind is not one of');
    // A word that no log has used finds nothing, as one that only others have.
    expect((await ask({ action: 'glimpsed' })).filter.actionIds).toEqual([]);
    await expect(ask({ period: 'since-set' })).rejects.toThrow('period needs an item');
    await expect(ask({ period: 'today', from: '2026-11-01' })).rejects.toThrow('period stands beside from or to');
    await expect(ask({ period: 'session' })).rejects.toThrow('no session has a time this week');
    await expect(ask({ staff: 'perhaps' })).rejects.toThrow('staff is not one of');
    await expect(ask({ unit: 'Week 9' })).rejects.toThrow('No such unit');
    const open = await ask({});
    await expect(readLog(runtime, open, { limit: 10, cursor: 'nonsense' })).rejects.toThrow('cursor is not a cursor');
  });

  it('keeps counts by day that are what the log gives', async () => {
    expect((await checkAll(runtime)).problems).toEqual([]);
  });
});

describe('many events of one second', () => {
  it('are each on one page, by whichever way in, and turn round', async () => {
    const other = await smallRuntime();
    const lines = Array.from(
      { length: 3000 },
      (_, i) => `2026-11-20T10:00:00Z,${['L1', 'L2', 'L4'][i % 3]},DRY,${i % 2 ? 'D1' : 'D2'},viewed`,
    );
    await bringIn(other, 'access-log', logOf(lines));
    for (const [asked, expected] of [
      [{}, 3000],
      [{ course: 'DRY', group: 'A' }, 2000],
      [{ organisation: 'Norrick' }, 1000],
      [{ unit: 'Week 1' }, 3000],
      [{ unit: 'Week 1', learner: 'L2' }, 1000],
      [{ kind: 'looked', organisation: 'Penhallow' }, 1000],
    ] as const) {
      const open = await openLog(other, SYSTEM_VIEWER, { ...asked });
      const seen = new Set<number>();
      let cursor: string | undefined;
      let before: { rows: { id: number }[] } | null = null;
      for (;;) {
        const page = await readLog(other, open, { limit: 170, cursor });
        page.rows.forEach((row) => seen.add(row.id));
        if (before && page.newer) {
          const back = await readLog(other, open, { limit: 170, cursor: page.newer, newer: true });
          expect(back.rows.map((row) => row.id)).toEqual(before.rows.map((row) => row.id));
        }
        before = page;
        if (page.older === null) break;
        cursor = page.older;
      }
      expect([asked, seen.size]).toEqual([asked, expected]);
    }
    await other.close();
  });
});

describe('a log as a file', () => {
  const textOf = async (format: LogFormat, values: Asked, id?: string) => {
    const { body } = await exportLog(runtime, await openLog(runtime, SYSTEM_VIEWER, { ...values }), format, id);
    const parts: Buffer[] = [];
    for await (const part of body) parts.push(Buffer.from(part));
    return Buffer.concat(parts);
  };

  it('holds exactly the rows shown, as CSV and as JSON lines, and says how far it has got', async () => {
    const { rows } = await everyPage({ item: 'D1' }, 1000);
    const id = '11111111-2222-4333-8444-555555555555';
    const lines = (await textOf('csv', { item: 'D1' }, id)).toString().trimEnd().split('\r\n');
    expect(lines).toHaveLength(rows.length + 1);
    expect(lines[0]).toBe('\uFEFFtime,learner_id,name,course,item_id,item,action,kind,address');
    expect(lines[1]).toContain(`${rows[0].learner_id},${rows[0].name},DRY,D1,Stone,${rows[0].action}`);
    expect(exportProgress(SYSTEM_VIEWER.staffId, id)).toMatchObject({
      done: rows.length,
      total: rows.length,
      state: 'done',
    });
    expect(exportProgress(77, id)).toBeNull();
    const json = (await textOf('jsonl', { item: 'D1' })).toString().trim().split('\n');
    expect(json.map((line) => JSON.parse(line).learner_id)).toEqual(rows.map((row) => row.learner_id));
  });

  it('is a workbook that opens', async () => {
    const { default: ExcelJS } = await import('exceljs');
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await textOf('xlsx', { course: 'NET' })) as never);
    const sheet = book.getWorksheet('Access log')!;
    expect(sheet.rowCount).toBe(1 + plainly({ course: 'NET' }).length);
    expect(sheet.getRow(1).getCell(1).value).toBe('time');
  });

  it('stops reading when its reader goes away', async () => {
    const id = '21111111-2222-4333-8444-555555555555';
    const { body, progress } = await exportLog(runtime, await openLog(runtime, SYSTEM_VIEWER, {}), 'csv', id);
    await new Promise<void>((resolve) => body.once('data', () => resolve()));
    body.destroy();
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(progress.state).toBe('left');
  });
});
