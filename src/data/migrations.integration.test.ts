import { afterEach, describe, expect, it } from 'vitest';
import { isMigrated, migrate, openDb, type Db } from './db';
import { MIGRATIONS, migrationSource } from './migrations';

let db: Db;
afterEach(() => db.destroy());

describe('migrations', () => {
  it('bring an empty database up to date, and change nothing when run again', async () => {
    db = openDb(':memory:');
    await migrate(db);
    const tables = await db('sqlite_master').where('type', 'table').orderBy('name').pluck('name');
    expect(tables).toEqual(expect.arrayContaining(['event', 'learner', 'visit_part', 'drift_reading', 'message']));
    await migrate(db);
    expect(await db('sqlite_master').where('type', 'table').orderBy('name').pluck('name')).toEqual(tables);
    expect(await isMigrated(db)).toBe(true);
  });

  it('bring a filled database of any earlier version up to date, and lose nothing', async () => {
    for (let version = 1; version <= MIGRATIONS.length; version += 1) {
      db = openDb(':memory:');
      const upTo = { ...migrationSource, getMigrations: async () => MIGRATIONS.slice(0, version) };
      await db.migrate.latest({ migrationSource: upTo, tableName: 'schema_migration' });
      await db('course').insert({ id: 1, code: 'DRY', title: 'Drystone Walling' });
      await db('learner').insert({ id: 1, external_id: 'L1', given_name: 'Ines' });
      await db('enrolment').insert({ learner_id: 1, course_id: 1, status: 'active', enrolled_day: 20_000 });
      await db('drift_reading').insert({
        enrolment_id: 1,
        day: 20_700,
        score: 50,
        band: 1,
        reasons: '{"reasons":[],"notCounted":[]}',
      });
      await migrate(db);
      expect(await db('learner').where('external_id', 'L1').first()).toMatchObject({ given_name: 'Ines' });
      expect(await db('drift_reading').first()).toMatchObject({ score: 50 });
      expect(await db.raw('PRAGMA foreign_key_check')).toEqual([]);
      if (version < MIGRATIONS.length) await db.destroy();
    }
  });
});
