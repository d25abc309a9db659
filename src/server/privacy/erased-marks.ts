/**
 * Whom a backup must not bring back: a file beside the database with a mark for each who was erased. A mark is a keyed hash of
 * the source's id (HMAC, RFC 2104): it names nobody, and tells a record that a backup brought back.
 */
import { createHmac, randomBytes } from 'node:crypto';
import { closeSync, existsSync, fsyncSync, openSync, readFileSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { addErasure, erasureOf, knownMarks, learnerIds, noteErasure } from '@/data/privacy/erasures';
import { writing } from '@/data/db';
import type { Runtime } from '../runtime';

type Parts = Pick<Runtime, 'settings'>;

const marksPath = ({ settings }: Parts) => join(settings.dataDir, 'erased.txt');
const keyPath = ({ settings }: Parts) => join(settings.dataDir, 'erased.key');

function keyOf(runtime: Parts): Buffer {
  const path = keyPath(runtime);
  if (!existsSync(path)) {
    try {
      writeFileSync(path, randomBytes(32), { flag: 'wx', mode: 0o600 });
    } catch (error) {
      // Another process was there first: its key is the one.
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
  }
  return readFileSync(path);
}

/** The mark of a learner's id in this installation. */
export function markOf(runtime: Parts, externalId: string): string {
  return createHmac('sha256', keyOf(runtime)).update(externalId).digest('hex');
}

function readMarks(runtime: Parts): string[] {
  const path = marksPath(runtime);
  return existsSync(path)
    ? readFileSync(path, 'utf8')
        .split('\n')
        .filter((line) => /^[0-9a-f]{64}$/.test(line))
    : [];
}

/** Notes a mark so that it has reached the disk; once, however often. */
export function noteMark(runtime: Parts, mark: string): void {
  if (readMarks(runtime).includes(mark)) return;
  const file = openSync(marksPath(runtime), 'a', 0o600);
  try {
    writeSync(file, `${mark}\n`);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
}

/**
 * Has everybody erased again whom a backup brought back: their mark stands in the file, and this database knows nothing of it.
 * Whoever came anew with the same id after an erasure that the database knows of is somebody new. Returns how many.
 */
export async function eraseAgain(runtime: Pick<Runtime, 'settings' | 'db' | 'clock' | 'log'>): Promise<number> {
  const marks = readMarks(runtime);
  if (marks.length === 0) return 0;
  const known = await knownMarks(runtime.db);
  const unknown = new Set(marks.filter((mark) => !known.has(mark)));
  if (unknown.size === 0) return 0;
  const now = runtime.clock.now();
  const back = (await learnerIds(runtime.db)).flatMap(({ id, external_id }) => {
    const mark = markOf(runtime, external_id);
    return unknown.has(mark) ? [{ id, mark }] : [];
  });
  for (const { id, mark } of back)
    await writing(runtime.db, async (trx) => {
      // One that was asked for, and killed or put back before it was done, is due now.
      const open = await erasureOf(trx, id);
      if (open) return noteErasure(trx, open.id, { mark, until: Math.min(open.until, now) });
      const reason = 'was erased before the backup that was put back';
      await addErasure(trx, { learner_id: id, asked_at: now, staff_id: null, reason, until: now, mark });
    });
  if (back.length > 0) runtime.log.warn({ records: back.length }, 'a backup brought back records that were erased');
  return back.length;
}
