import { afterEach, describe, expect, it } from 'vitest';
import { isMigrated, migrate, openDb, type Db } from './db';
import { MIGRATIONS, migrationSource } from './migrations';

let db: Db;
afterEach(() => db.destroy());

const EMPTY_STANDING = { done_days: '[]', plan: '[]', open_dues: '[]', waits: '[]', work: '[]' };

describe('migrations', () => {
  it('bring an empty database up to date, and change nothing when run again', async () => {
    db = openDb(':memory:');
    await migrate(db);
    const tables = await db('sqlite_master').where('type', 'table').orderBy('name').pluck('name');
    expect(tables).toEqual(expect.arrayContaining(['event', 'learner', 'visit_course', 'drift_reading', 'message']));
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

  it('refuse what no row may be, and let go of what belongs to what is gone', async () => {
    db = openDb(':memory:');
    await migrate(db);
    await db('learner').insert({ id: 1, external_id: 'L1', given_name: 'Ines' });
    await db('course').insert({ id: 1, code: 'DRY', title: 'Drystone Walling' });
    const enrol = (status: never) =>
      db.from('enrolment').insert({ id: 1, learner_id: 1, course_id: 1, status, enrolled_day: 20_000 });
    await expect(enrol('lost' as never)).rejects.toThrow(/CHECK/);
    await enrol('active' as never);
    await expect(db('course').update({ starts_day: 10, ends_day: 9 })).rejects.toThrow(/CHECK/);
    await db('course_option').insert({ course_id: 1, name: 'scale', value: '[]' });
    await db('drift_reading').insert({ enrolment_id: 1, day: 1, score: 4, band: 0, reasons: '{}' });
    await expect(db('drift_reading').update({ score: 101 })).rejects.toThrow(/CHECK/);
    // Nobody's enrolment goes by itself; a reading is nothing without one.
    await expect(db('course').delete()).rejects.toThrow(/FOREIGN KEY/);
    await db('enrolment').delete();
    expect(await db('drift_reading')).toEqual([]);
    await db('course').delete();
    expect(await db('course_option')).toEqual([]);
    expect(await db.raw('PRAGMA integrity_check')).toEqual([{ integrity_check: 'ok' }]);
  });

  it('leave a row alone that is what none may be now', async () => {
    db = openDb(':memory:');
    const before = { ...migrationSource, getMigrations: async () => MIGRATIONS.slice(0, 14) };
    await db.migrate.latest({ migrationSource: before, tableName: 'schema_migration' });
    await db('course').insert({ id: 1, code: 'DRY', title: 'Drystone Walling', starts_day: 10, ends_day: 9 });
    await migrate(db);
    expect(await db('course').first()).toMatchObject({ starts_day: 10, ends_day: 9 });
    await expect(db('course').update({ pass_mark: 101 })).rejects.toThrow(/CHECK/);
  });

  it('keep what was stored under words that were ours, under the words it has now', async () => {
    db = openDb(':memory:');
    const before = { ...migrationSource, getMigrations: async () => MIGRATIONS.slice(0, 13) };
    await db.migrate.latest({ migrationSource: before, tableName: 'schema_migration' });
    const old = (table: string, row: object) => db.from(table).insert(row);
    await old('staff', {
      id: 1,
      external_id: 'T1',
      given_name: 'Mair',
      family_name: 'Tolland',
      email: 'm@s.example',
      role: 'lead',
    });
    await old('learner', { id: 1, external_id: 'L1', given_name: 'Ines' });
    await old('course', { id: 1, code: 'DRY', title: 'Drystone Walling' });
    await old('item', {
      id: 1,
      course_id: 1,
      external_id: 'D1',
      title: 'Footings',
      kind: 'video',
      required: 1,
      position: 1,
    });
    await old('enrolment', { id: 1, learner_id: 1, course_id: 1, status: 'active', enrolled_day: 20_000 });
    await old('progress', { learner_id: 1, item_id: 1, at: 5, share: 0.5 });
    await old('standing', { enrolment_id: 1, done: 3, required: 4, begun: 1, ...EMPTY_STANDING });
    await old('call', { learner_id: 1, staff_id: 1, at: 5, outcome: 'left_word', remark: '' });
    await old('staff_setting', { staff_id: 1, name: 'reach', value: '6' });
    await old('staff_setting', { staff_id: 1, name: 'learner_columns', value: 'phone,owed' });
    await old('saved_view', { staff_id: 1, name: 'Mine', query: 'owes=3&sort=-owed' });
    await old('drift_setting', { from_day: 1, at: 1, words: '', kept: '{"parts":{"away":14,"never":7,"waiting":28}}' });
    await migrate(db);
    expect(await db('watched').first()).toMatchObject({ share: 0.5 });
    expect(await db('enrolment_progress').first()).toMatchObject({ done: 3, required: 4 });
    expect(await db('call').pluck('outcome')).toEqual(['left_message']);
    expect(await db('staff_setting').orderBy('name').select('name', 'value')).toEqual([
      { name: 'capacity', value: '6' },
      { name: 'learner_columns', value: 'phone,overdue' },
    ]);
    expect(await db('saved_view').pluck('query')).toEqual(['overdue=3&sort=-overdue']);
    expect(JSON.parse((await db('drift_setting').pluck('setting'))[0] as string).parts).toEqual({
      away: 14,
      never: 7,
      contacted: 28,
    });
  });
});
