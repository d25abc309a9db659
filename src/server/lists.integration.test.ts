import { IsOptional } from 'class-validator';
import { text } from 'node:stream/consumers';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { LISTS, listNamed } from './lists';
import { LEARNERS, learnerList } from './people/learner-list';
import { AsCount, AsDay, AsInstant, readInput, type Values } from './request/input';
import {
  Filter,
  askedOf,
  controlsOf,
  documentationOf,
  figuresOf,
  headingsOf,
  listFile,
  listParams,
  sentencesOf,
  type List,
} from './request/list';
import { ListQuery } from './request/list-query';
import { SYSTEM_VIEWER } from './system-viewer';
import { NEEDED_BY_LIST, askList, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from './testing';

let runtime: TestRuntime;
let lead: Viewer;
beforeAll(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  await bringIn(runtime, 'access-log', logOf(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']));
});
afterAll(() => runtime.close());

describe('every list', () => {
  it.each(LISTS.map((list) => [list.name, list] as const))(
    '%s is read, and gives the same as a file',
    async (_, list) => {
      const asked = NEEDED_BY_LIST[list.name] ?? {};
      const page = await askList(list, runtime, lead, asked);
      for (const row of page.rows) expect(Object.keys(row)).toEqual(headingsOf(list));
      const file = (await text(await listFile(list, { runtime, viewer: lead }, asked, 'csv'))).replace('\uFEFF', '');
      const [heading, ...lines] = file.trim().split('\r\n');
      const own = headingsOf(list).filter((name) => !list.spread?.omits.includes(name));
      expect(heading.split(',').slice(0, own.length)).toEqual(own);
      // Columns of its own are as many as there are things: marks of the programme's own may be none.
      if (list.spread === undefined) expect(heading.split(',')).toHaveLength(own.length);
      expect(lines).toHaveLength(page.total);
      const json = await text(await listFile(list, { runtime, viewer: lead }, asked, 'json'));
      const all = list.file
        ? json
            .trim()
            .split('\n')
            .map((line) => JSON.parse(line))
        : JSON.parse(json).data;
      expect(all).toHaveLength(page.total);
    },
  );

  it('stands in docs/lists.md as it is', async () => {
    const page = `# Lists\n\nMade from their declarations; a test keeps it true. Every list also takes \`limit\`, \`cursor\` and \`format\`.\n\n${LISTS.map(documentationOf).join('\n\n')}\n`;
    await expect(page).toMatchFileSnapshot('../../docs/lists.md');
  });

  it('is found by its name, and no other', () => {
    expect(listNamed('notes').path).toBe('/follow-ups/notes');
    expect(() => listNamed('constructor')).toThrow('No such list');
  });
});

describe('a declaration', () => {
  it('is enough: a filter and a column of the Learners list are said, asked for, drawn and exported', async () => {
    const params = listParams(LEARNERS, { online_under: '2', in: 'course:DRY', page: '3', nonsense: 'x' });
    expect(params).toEqual({ online_under: '2', in: 'course:DRY' });
    expect(askedOf(LEARNERS, params)).toEqual({ course: 'DRY', online_under: '2' });
    expect(sentencesOf(LEARNERS, params)).toEqual([
      { says: 'Online less than 2 hours', clears: ['online_under'], turned: null },
    ]);
    expect(controlsOf(LEARNERS, {}).map(({ name }) => name)).toContain('online_under');
    const under = await learnerList(runtime, lead, { online_under: '1' });
    const none = await learnerList(runtime, lead, { online_under: '0' });
    expect([under.total > 0, none.total]).toEqual([true, 0]);
    await expect(learnerList(runtime, lead, { online_under: 'two' })).rejects.toThrow('online_under is not a number');
    const sorted = await learnerList(runtime, lead, { sort: 'enrolled' });
    const days = sorted.rows.map((row) => row.enrolled_day);
    expect(days).toEqual([...days].sort((a, b) => a - b));
    expect(figuresOf(LEARNERS, sorted.rows[0], sorted)).toHaveProperty('enrolled_on', '2026-09-28');
  });

  it('turns who has into who has not, and clears what stood beside it', () => {
    const [sentence] = sentencesOf(LEARNERS, { opened: 'DRY/D1', opened_from: '2026-11-02', opened_to: '2026-11-02' });
    expect(sentence).toEqual({
      says: 'Opened DRY/D1 on Mon 2 Nov',
      clears: ['opened', 'opened_from', 'opened_to', 'opened_since', 'first_opened_since'],
      turned: {
        says: 'who has not',
        params: { not_opened: 'DRY/D1', opened_from: '2026-11-02', opened_to: '2026-11-02' },
      },
    });
  });

  it('takes filters from its parents, and leaves controls out that offer nothing', () => {
    class Parent extends ListQuery {
      @Filter({ help: 'one', control: { as: 'choice', label: 'One', choices: 'ones' } })
      @IsOptional()
      @AsCount('ones', 9)
      one?: number;
    }
    class Child extends Parent {
      @Filter({ help: 'two', says: (two) => `Two ${two}` }) @IsOptional() @AsCount('twos', 9) two?: number;
    }
    const list = { name: 'x', path: '/x', query: Child, columns: {} } as unknown as List<never>;
    expect(sentencesOf(list, { one: '1', two: '2' }).map(({ says }) => says)).toEqual(['Two 2']);
    expect(controlsOf(list, {})).toEqual([]);
    expect(controlsOf(list, { ones: [{ value: '1', label: 'one' }] })).toHaveLength(1);
  });
});

describe('fields that convert as they check', () => {
  class Input {
    @IsOptional() @AsDay() day?: number;
    @IsOptional() @AsInstant() at?: number;
    @IsOptional() @AsCount('hours', 24) hours?: number;
  }
  const read = (values: Values) => ({ ...readInput(Input, values, 'Europe/Dublin') });

  it('give what the code works with', () => {
    expect(read({ day: '1970-01-02', at: '2026-07-01T10:00', hours: ' 7 ' })).toEqual({
      day: 1,
      at: Date.parse('2026-07-01T09:00:00Z'),
      hours: 7,
    });
    expect(read({ day: '', at: null })).toEqual({});
  });

  it('name what is wrong', () => {
    expect(() => read({ day: '2026-02-30', at: 'noon', hours: '25' })).toThrow(
      'day is not a date such as 2026-11-24; at is not a time such as 2026-11-24T09:10:00Z; hours is not a number of hours, from 0 to 24',
    );
    for (const hours of ['-1', '1.5', '1e1', {}, [1]]) expect(() => read({ hours })).toThrow('hours is not');
  });
});

it('messages and notes go on from a row, and nothing of others is theirs', async () => {
  const asked = await askList(listNamed('notes'), runtime, SYSTEM_VIEWER, { limit: '1' });
  expect(asked).toMatchObject({ total: 0, next: null });
  await expect(askList(listNamed('messages'), runtime, lead, { state: 'lost' })).rejects.toThrow('state is not one of');
});
