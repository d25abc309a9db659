import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { GET, POST, PUT } from '@/app/xapi/statements/route';
import type { JsonObject } from '@/core/feed/xapi/values';
import { basic, openDoor, statement, type Door } from './testing';

let door: Door;
const ask: Door['ask'] = (...call) => door.ask(...call);

beforeAll(async () => {
  door = await openDoor({ GET, POST, PUT });
  const around = { context: { contextActivities: { grouping: [{ id: 'https://campus.example/course/NET' }] } } };
  const account = { actor: { account: { homePage: 'https://campus.example', name: 'L4' } } };
  const answer = await ask('POST', '', [
    statement('l1', 'D1'),
    statement('l2', 'D1'),
    statement('l2', 'D2'),
    statement('l1', 'D2', 'submitted'),
    statement('l4', 'D1', 'opened', account),
    statement('l1', 'N1', 'opened', around),
    statement('l2', 'N1', 'played', around),
  ]);
  expect(answer.status).toBe(200);
});
afterAll(() => door.close());

describe('reading back', () => {
  const list = async (query: string, headers = {}) => (await ask('GET', query, undefined, headers)).json();

  it('goes by the standard’s filters', async () => {
    const agent = encodeURIComponent(JSON.stringify({ mbox: 'mailto:L3@learner.example' }));
    expect((await list(`?agent=${agent}`)).statements).toHaveLength(0);
    const account = encodeURIComponent(JSON.stringify({ account: { homePage: 'https://campus.example', name: 'L4' } }));
    expect((await list(`?agent=${account}`)).statements).toHaveLength(1);
    const verb = encodeURIComponent('https://verbs.example/submitted');
    expect((await list(`?verb=${verb}`)).statements).toHaveLength(1);
    const activity = encodeURIComponent('https://campus.example/course/NET');
    expect((await list(`?activity=${activity}`)).statements).toHaveLength(0);
    expect((await list(`?activity=${activity}&related_activities=true`)).statements).toHaveLength(2);
    expect((await list('?since=2026-11-24T09:10:00Z')).statements).toHaveLength(0);
    expect((await list('?until=2026-11-24T09:10:00Z')).statements.length).toBeGreaterThan(5);
    expect((await list(`?verb=${verb}&format=ids`)).statements[0].verb).toEqual({
      id: 'https://verbs.example/submitted',
    });
  });

  it('finds a group by its members, whom a statement is about, and what is around it', async () => {
    const [a, b] = ['a', 'b'].map((name) => ({ mbox: `mailto:${name}@crew.example` }));
    const found = async (who: JsonObject, more = '') =>
      (await list(`?agent=${encodeURIComponent(JSON.stringify(who))}${more}`)).statements.length;
    await ask('POST', '', [
      { ...statement('x', 'D1', 'hauled'), actor: { objectType: 'Group', member: [a, b] } },
      { ...statement('x', 'D1', 'thanked'), object: { objectType: 'Agent', ...b } },
      { ...statement('x', 'D1', 'hauled'), context: { instructor: a } },
    ]);
    expect([await found(a), await found(a, '&related_agents=true')]).toEqual([1, 2]);
    expect([await found(b), await found(b, '&related_agents=true')]).toEqual([2, 2]);
  });

  it('finds those about another statement by what that one says, whichever came first', async () => {
    const [target, early] = [randomUUID(), randomUUID()];
    const registration = randomUUID();
    const about = (id: string, more: JsonObject = {}) => ({
      ...statement('teacher', 'D1', 'confirmed', more),
      object: { objectType: 'StatementRef', id },
    });
    const said = (who: string) => ({ ...statement(who, 'D1', 'coiled'), context: { registration } });
    const ids = async (query: string) => (await list(query)).statements.map((one: JsonObject) => one.id);
    await ask('PUT', `?statementId=${target}`, said('deckhand'));
    const [first] = await (await ask('POST', '', about(target))).json();
    const [second] = await (await ask('POST', '', about(first))).json();
    const [waits] = await (await ask('POST', '', about(early))).json();
    await ask('PUT', `?statementId=${early}`, said('bosun'));
    const agent = (who: string) => encodeURIComponent(JSON.stringify({ mbox: `mailto:${who}@learner.example` }));
    expect(await ids(`?agent=${agent('deckhand')}`)).toEqual([second, first, target]);
    expect(await ids(`?agent=${agent('bosun')}&ascending=true`)).toEqual([waits, early]);
    expect(await ids(`?registration=${registration}`)).toEqual([early, waits, second, first, target]);
    // One statement must say it all: the one who confirms did not coil.
    const verb = encodeURIComponent('https://verbs.example/coiled');
    expect(await ids(`?agent=${agent('teacher')}&verb=${verb}`)).toEqual([]);
    expect(await ids(`?agent=${agent('deckhand')}&verb=${verb}`)).toEqual([second, first, target]);
    // What is void is not given; what is about it still is.
    await ask('POST', '', { ...about(target), verb: { id: 'http://adlnet.gov/expapi/verbs/voided' } });
    expect((await ids(`?agent=${agent('deckhand')}`)).slice(1)).toEqual([second, first]);
    // Two that are about each other end somewhere.
    const [one, two] = [randomUUID(), randomUUID()];
    await ask('POST', '', [
      { ...about(two), id: one },
      { ...about(one), id: two },
    ]);
    expect((await ask('GET', `?statementId=${one}`)).status).toBe(200);
  });

  it('goes on page by page, in both orders, without losing or repeating one', async () => {
    const all = (await list('?ascending=true')).statements.map((one: JsonObject) => one.id);
    const seen: string[] = [];
    let page = await list('?limit=4&ascending=true');
    for (;;) {
      expect(page.statements.length).toBeLessThanOrEqual(4);
      seen.push(...page.statements.map((one: JsonObject) => one.id));
      if (page.more === '') break;
      page = await list(page.more.slice('/xapi/statements'.length));
    }
    expect(seen).toEqual(all);
    expect((await list('')).statements.map((one: JsonObject) => one.id)).toEqual([...all].reverse());
  });

  it.each([
    '?colour=red',
    '?limit=-1',
    '?agent={}',
    '?verb=opened',
    '?registration=7',
    '?since=yesterday',
    '?format=short',
    `?statementId=${randomUUID()}&verb=x`,
    `?statementId=${randomUUID()}&voidedStatementId=${randomUUID()}`,
    '?statementId=one',
  ])('refuses %s', async (query) => expect((await ask('GET', query)).status).toBe(400));

  it('shows a source its own statements and no other’s', async () => {
    const mine = (await list('')).statements[0];
    const theirs = { authorization: basic(door.other) };
    expect((await list('', theirs)).statements).toEqual([]);
    expect((await ask('GET', `?statementId=${mine.id}`, undefined, theirs)).status).toBe(404);
    // The same id of another source is another statement.
    expect((await ask('PUT', `?statementId=${mine.id}`, statement('l1', 'D1', 'played'), theirs)).status).toBe(204);
  });
});
