/** Backups that were made: whoever was erased after one is still in it, and nothing here can reach it. */
import { readSetting, writeSetting } from '@/data/settings';
import { writing } from '@/data/db';
import type { Runtime } from '../runtime';

const SETTING = 'backups';
/** Backups that are remembered. */
const MOST = 200;

export interface BackupMade {
  file: string;
  at: number;
}

/** Backups that were made with `lee backup`, the newest first, wherever they have gone since. */
export async function backupsMade({ db }: Pick<Runtime, 'db'>): Promise<BackupMade[]> {
  const kept = await readSetting(db, SETTING);
  return kept === null ? [] : JSON.parse(kept);
}

/** Notes a backup. */
export async function noteBackup(runtime: Pick<Runtime, 'db' | 'clock'>, file: string): Promise<void> {
  const made = { file, at: runtime.clock.now() };
  await writing(runtime.db, async (trx) => {
    const known = (await backupsMade({ db: trx })).filter((one) => one.file !== file);
    await writeSetting(trx, SETTING, JSON.stringify([made, ...known].slice(0, MOST)));
  });
}
