/** Taking the events of courses out of the log, a part at a time, while others work. */
import { setTimeout as pause } from 'node:timers/promises';
import { rawTransaction, withRaw, type Db } from '@/data/db';
import { beginDropping, dropEvents, eventsToDrop } from '@/data/privacy/retention';

/** Between two parts: whoever waits for the write lock gets it. */
const BETWEEN = 2;

/** Ended at any place, it is begun again. Returns how many went. */
export async function dropEventsOf(db: Db, courseIds: readonly number[]): Promise<number> {
  let place = await withRaw(db, (raw) => beginDropping(raw, courseIds));
  for (let dropped = 0; ;) {
    const { after } = place;
    const ids = await withRaw(db, (raw) => eventsToDrop(raw, place));
    if (ids.length === 0) return dropped;
    await rawTransaction(db, (raw) => dropEvents(raw, ids));
    dropped += ids.length;
    if (after !== null) place = { courseIds, after: ids[ids.length - 1] };
    await pause(BETWEEN);
  }
}
