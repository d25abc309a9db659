import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readStatement, type SAID_OF } from '@/core/feed/xapi/read';
import type { JsonObject } from '@/core/feed/xapi/values';
import { smallRuntime, type TestRuntime } from '@/server/testing';
import { withRaw, rawTransaction } from '@/data/db';
import { findStatements } from './find';
import { storeStatements } from './statements';

let runtime: TestRuntime;
let sourceId: number;
beforeAll(async () => {
  runtime = await smallRuntime();
  [sourceId] = await runtime.db('source').insert({ name: 'campus' });
});
afterAll(() => runtime.close());

const person = (name: string) => ({ mbox: `mailto:${name}@crew.example` });
const verb = (word: string) => `https://verbs.example/${word}`;
const place = (name: string) => `https://campus.example/DRY/${name}`;

/** Few people, words and places, so that they meet; some statements are about others, sooner or later ones. */
const some = fc.record({
  who: fc.constantFrom('ana', 'bo', 'cy'),
  word: fc.constantFrom('tied', 'coiled'),
  what: fc.constantFrom('D1', 'D2'),
  about: fc.option(fc.nat(9), { nil: null, freq: 2 }),
});
const asked = fc.record({
  who: fc.option(fc.constantFrom('ana', 'bo', 'cy'), { nil: null }),
  word: fc.option(fc.constantFrom('tied', 'coiled'), { nil: null }),
  what: fc.option(fc.constantFrom('D1', 'D2'), { nil: null }),
  ascending: fc.boolean(),
  limit: fc.constantFrom(1, 3, 50),
});

type Keys = { what: (typeof SAID_OF)[number]; key: string }[];

it('gives what a plain reading of the standard gives, page by page, in either order', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(some, { maxLength: 10 }), asked, async (made, { who, word, what, ascending, limit }) => {
      await runtime.db('statement_link').delete();
      await runtime.db('statement_key').delete();
      await runtime.db('statement').delete();
      const uuids: string[] = made.map(() => randomUUID());
      const bodies: JsonObject[] = made.map((one, index) => ({
        id: uuids[index],
        actor: person(one.who),
        verb: { id: verb(one.word) },
        object:
          one.about === null || one.about >= made.length
            ? { id: place(one.what) }
            : { objectType: 'StatementRef', id: uuids[one.about] },
      })) as JsonObject[];
      const incoming = bodies.map((body, index) => ({ uuid: uuids[index], body }));
      await rawTransaction(runtime.db, (raw) =>
        storeStatements(raw, incoming, { sourceId, zone: runtime.zone, now: runtime.clock.now() }),
      );

      const keys: Keys = [];
      if (who !== null) keys.push({ what: 'actor', key: person(who).mbox });
      if (word !== null) keys.push({ what: 'verb', key: verb(word) });
      if (what !== null) keys.push({ what: 'object', key: place(what) });
      const matches = (uuid: string, seen: readonly string[] = []): boolean => {
        const said = readStatement(bodies[uuids.indexOf(uuid)]);
        if (keys.every((one) => said.keys[one.what].includes(one.key))) return true;
        return said.refersTo !== null && !seen.includes(uuid) && matches(said.refersTo, [...seen, uuid]);
      };
      const expected = uuids.filter((uuid) => matches(uuid));
      if (!ascending) expected.reverse();

      const found: string[] = [];
      for (let beyond: number | undefined; ;) {
        const page = await findStatements(runtime.db, sourceId, { keys }, { limit, ascending, beyond });
        found.push(...page.map(({ body }) => String(body.id)));
        if (page.length < limit) break;
        beyond = page.at(-1)!.id;
      }
      expect(found).toEqual(expected);
    }),
    { numRuns: 150 },
  );
});

it('knows the place of an instant, and of none before the first', async () => {
  await runtime.db('statement_link').delete();
  await runtime.db('statement').delete();
  const store = (now: number) => {
    const uuid = randomUUID();
    const body = { id: uuid, actor: person('ana'), verb: { id: verb('tied') }, object: { id: place('D1') } };
    return rawTransaction(runtime.db, (raw) =>
      storeStatements(raw, [{ uuid, body }], { sourceId, zone: runtime.zone, now }),
    );
  };
  // The third comes by a clock that was put back: it is stored no earlier than the one before it.
  for (const now of [1000, 2000, 1500, 3000]) await store(now);
  const stored = async (since?: number, until?: number) =>
    (await findStatements(runtime.db, sourceId, { keys: [], since, until }, { limit: 10, ascending: true })).map(
      (one) => one.stored,
    );
  expect(await stored()).toEqual([1000, 2000, 2000, 3000]);
  expect(await stored(1000)).toEqual([2000, 2000, 3000]);
  expect(await stored(undefined, 2000)).toEqual([1000, 2000, 2000]);
  expect(await stored(1000, 2000)).toEqual([2000, 2000]);
  expect(await stored(3000)).toEqual([]);
  expect(await stored(undefined, 999)).toEqual([]);
  // Another source's are none of these.
  const [other] = await runtime.db('source').insert({ name: 'elsewhere' });
  expect(await findStatements(runtime.db, other, { keys: [] }, { limit: 10, ascending: true })).toEqual([]);
  expect(await withRaw(runtime.db, (raw) => raw.prepare('SELECT count(*) FROM statement').pluck().get())).toBe(4);
});
