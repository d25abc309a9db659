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
  /** When it was restored in a folder of its own and looked through, and what was wrong; left out where it never was. */
  checked?: { at: number; problems: string[] };
}

type Parts = Pick<Runtime, 'db' | 'clock'>;

/** Backups that were made, the newest first, wherever they have gone since. */
export async function backupsMade({ db }: Pick<Runtime, 'db'>): Promise<BackupMade[]> {
  const kept = await readSetting(db, SETTING);
  return kept === null ? [] : JSON.parse(kept);
}

async function change({ db }: Parts, work: (known: BackupMade[]) => BackupMade[]): Promise<void> {
  await writing(db, async (trx) => {
    await writeSetting(trx, SETTING, JSON.stringify(work(await backupsMade({ db: trx })).slice(0, MOST)));
  });
}

/** Notes a backup. */
export async function noteBackup(runtime: Parts, file: string): Promise<void> {
  const made = { file, at: runtime.clock.now() };
  await change(runtime, (known) => [made, ...known.filter((one) => one.file !== file)]);
}

/** Notes what came of looking through one. */
export async function noteChecked(runtime: Parts, file: string, problems: string[]): Promise<void> {
  const checked = { at: runtime.clock.now(), problems };
  await change(runtime, (known) => known.map((one) => (one.file === file ? { ...one, checked } : one)));
}

/** Notes that backups were removed: nobody is in them any more. */
export async function noteRemoved(runtime: Parts, files: readonly string[]): Promise<void> {
  await change(runtime, (known) => known.filter(({ file }) => !files.includes(file)));
}
