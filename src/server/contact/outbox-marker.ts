/**
 * Tells a copy of the data from the data itself, so that no copy sends what has gone out already.
 *
 * The database counts what has been handed over, and a small file beside it has the same count. A
 * database that is put back from a backup is behind the file; one that was copied to another folder
 * has none. In either, nobody can know what has gone out since: what waits there becomes *unsure*.
 */
import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { addAudit } from '@/data/audit';
import { writing } from '@/data/db';
import { countHandedOver, settleWaiting } from '@/data/contact/messages';
import { readSetting, writeSetting } from '@/data/settings';
import { sayCount } from '@/core/time/words';
import type { Logger } from 'pino';
import type { Db } from '@/data/db';
import type { Clock } from '../clock';
import type { Settings } from '../settings';

/** What of the runtime it takes. */
interface Parts {
  settings: Settings;
  db: Db;
  clock: Clock;
  log: Logger;
}

interface Marker {
  /** Which installation's database it stands beside. */
  installation: string;
  handedOver: number;
}

function markerPath({ settings }: Pick<Parts, 'settings'>): string {
  return join(settings.dataDir, 'outbox.json');
}

function readMarker(runtime: Pick<Parts, 'settings'>): Marker | null {
  const path = markerPath(runtime);
  if (!existsSync(path)) return null;
  try {
    return JSON.parse(readFileSync(path, 'utf8')) as Marker;
  } catch {
    return null;
  }
}

function writeMarker(runtime: Pick<Parts, 'settings'>, marker: Marker): void {
  const path = markerPath(runtime);
  // A name of its own, since several processes may start at once.
  const part = `${path}.${randomUUID()}`;
  writeFileSync(part, JSON.stringify(marker));
  renameSync(part, path);
}

/**
 * Looks whether this database is a copy; then what waits in it becomes unsure. Called when the
 * database is opened. Returns how many messages that were.
 */
export async function settleCopy(runtime: Parts): Promise<number> {
  const { db, clock, log } = runtime;
  const found = await writing(db, async (trx) => {
    const installation = await readSetting(trx, 'installation');
    const handedOver = Number((await readSetting(trx, 'handed_over')) ?? 0);
    const known = readMarker(runtime);
    // A count beside a database that has none: a backup from before there was one, put back after the upgrade.
    if (installation === null && known === null) {
      const marker = { installation: randomUUID(), handedOver };
      await writeSetting(trx, 'installation', marker.installation);
      await writeSetting(trx, 'handed_over', String(handedOver));
      writeMarker(runtime, marker);
      return 0;
    }
    const marker = known;
    const isCopy = marker === null || marker.installation !== installation || marker.handedOver > handedOver;
    if (!isCopy) return 0;
    const waiting = await settleWaiting(trx);
    // Later than all that was counted before, in this folder or the other.
    const next = Math.max(handedOver, marker?.handedOver ?? 0) + 1;
    await writeSetting(trx, 'handed_over', String(next));
    const madeId = installation ?? randomUUID();
    if (installation === null) await writeSetting(trx, 'installation', madeId);
    writeMarker(runtime, { installation: madeId, handedOver: next });
    const says = sayCount(waiting, 'message');
    await addAudit(trx, {
      at: clock.now(),
      staff_id: null,
      what: 'opened a copy of the data',
      subject: `${says} waited in it`,
    });
    return waiting;
  });
  if (found > 0) {
    log.warn(
      { messages: found },
      'this is a copy of the data: messages that waited in it may have gone out since, and are unsure until a person decides under Messages',
    );
  }
  return found;
}

/** Counts a message that is about to be handed over, here and beside the database. */
export async function recordHandedOver(runtime: Pick<Parts, 'settings' | 'db'>): Promise<void> {
  writeMarker(runtime, await countHandedOver(runtime.db));
}
