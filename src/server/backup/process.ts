/** Backups in a process of their own, which goes after everything else: nobody who works notices. */
import { spawn } from 'node:child_process';
import { constants, setPriority } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { MINUTE } from '@/core/time/zone';
import type { Runtime } from '../runtime';
import { dueBackup } from './schedule';

/** How often it is looked whether one is due, in ms, and how long is waited after one that went wrong. */
const AGAIN = MINUTE;
const AFTER_TROUBLE = 30 * MINUTE;

/** Runs `lee backup-due` to its end. @throws where it failed */
async function runBackup(): Promise<void> {
  const child = spawn(process.execPath, [join(process.cwd(), 'dist', 'lee.mjs'), 'backup-due'], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  if (child.pid !== undefined) setPriority(child.pid, constants.priority.PRIORITY_LOW);
  let says = '';
  child.stderr.on('data', (chunk: Buffer) => (says = `${says}${chunk.toString()}`.slice(0, 2000)));
  const code = await new Promise<number | null>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', resolve);
  });
  if (code !== 0) throw new Error(says.trim() || `The backup ended with ${code}`);
}

/** Makes a backup whenever one is due, for ever. */
export async function backUpForEver(runtime: Runtime): Promise<never> {
  for (;;) {
    let wait = AGAIN;
    try {
      if (dueBackup(runtime) !== null) await runBackup();
    } catch (error) {
      runtime.log.error({ err: error }, 'no backup could be made, or it could not be put back');
      wait = AFTER_TROUBLE;
    }
    await pause(wait);
  }
}
