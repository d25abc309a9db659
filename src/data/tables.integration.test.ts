import { afterAll, beforeAll, expect, it } from 'vitest';
import { testRuntime, type TestRuntime } from '@/server/testing';
import { withRaw } from './db';
import { TABLES } from './tables';

let runtime: TestRuntime;
beforeAll(async () => {
  runtime = await testRuntime();
});
afterAll(() => runtime.close());

interface ColumnInfo {
  name: string;
  type: string;
  notnull: 0 | 1;
  pk: number;
}

it('the tables that queries are checked against are those of the database, column by column', async () => {
  const stored = await withRaw(runtime.db, (raw) => {
    const names = raw
      .prepare(
        `SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite%' AND name NOT LIKE 'schema_migration%'
         -- The index of words makes its own.
         AND name NOT LIKE 'post_words%'`,
      )
      .pluck()
      .all() as string[];
    return Object.fromEntries(
      names.map((name) => [
        name,
        Object.fromEntries(
          (raw.pragma(`table_info('${name}')`) as ColumnInfo[]).map(({ name: column, type, notnull, pk }) => [
            column,
            { sql: type, isNullable: notnull === 0 && pk === 0 },
          ]),
        ),
      ]),
    );
  });
  expect(TABLES).toEqual(stored);
});
