/** Settings kept in the database. */
import type { Db, RawConnection } from './db';

export async function readSetting(db: Db, name: string): Promise<string | null> {
  const row = await db('setting').where({ name }).first('value');
  return row?.value ?? null;
}

export async function writeSetting(db: Db, name: string, value: string): Promise<void> {
  await db('setting').insert({ name, value }).onConflict('name').merge();
}

/** A setting that is a whole number, inside of a transaction; null when it was never set. */
export function readNumber(raw: RawConnection, name: string): number | null {
  const value = raw.prepare('SELECT value FROM setting WHERE name = ?').pluck().get(name);
  return value === undefined ? null : Number(value);
}

export function writeNumber(raw: RawConnection, name: string, value: number): void {
  raw
    .prepare('INSERT INTO setting (name, value) VALUES (?, ?) ON CONFLICT DO UPDATE SET value = excluded.value')
    .run(name, String(value));
}

/** What somebody has set for themselves; null for nothing. */
export async function readStaffSetting(db: Db, staffId: number, name: string): Promise<string | null> {
  const row = await db('staff_setting').where({ staff_id: staffId, name }).first('value');
  return row?.value ?? null;
}

/** Keeps what somebody sets for themselves; null takes it away. */
export async function writeStaffSetting(db: Db, staffId: number, name: string, value: string | null): Promise<void> {
  if (value === null) {
    await db('staff_setting').where({ staff_id: staffId, name }).delete();
    return;
  }
  await db('staff_setting').insert({ staff_id: staffId, name, value }).onConflict(['staff_id', 'name']).merge();
}

/** A secret of this installation, made when it is first asked for; two processes that ask at once get the same. */
export async function ownSecret(db: Db, name: string, make: () => string): Promise<string> {
  const known = await readSetting(db, name);
  if (known !== null) return known;
  await db('setting').insert({ name, value: make() }).onConflict('name').ignore();
  return (await readSetting(db, name))!;
}
