/** Settings kept in the database. */
import type { Db } from './db';

export async function readSetting(db: Db, name: string): Promise<string | null> {
  const row = await db('setting').where({ name }).first('value');
  return row?.value ?? null;
}

export async function writeSetting(db: Db, name: string, value: string): Promise<void> {
  await db('setting').insert({ name, value }).onConflict('name').merge();
}
