/** Files and calendars that are fetched from an address again and again. */
import { countOf, type Db } from '../db';
import type { RowOf } from '../tables';

export type FetchedAddress = RowOf<'fetched_address'>;
export type NewAddress = Pick<FetchedAddress, 'url' | 'source' | 'part' | 'every_minutes' | 'created_at' | 'staff_id'>;

const MINUTE = 60_000;

export async function listAddresses(db: Db): Promise<FetchedAddress[]> {
  return db('fetched_address').orderBy(['source', 'id']).select('*');
}

/** Adds an address; null for one that is there for this source. */
export async function addAddress(db: Db, address: NewAddress): Promise<number | null> {
  const [row] = await db('fetched_address')
    .insert({ ...address, next_at: 0 })
    .onConflict(['url', 'source'])
    .ignore()
    .returning('id');
  return row?.id ?? null;
}

export async function removeAddress(db: Db, id: number): Promise<FetchedAddress | null> {
  const there = await db('fetched_address').where({ id }).first('*');
  const removed = await db('fetched_address').where({ id }).delete();
  return removed > 0 ? there : null;
}

/** Has an address fetched as soon as can be. Returns whether it is there. */
export async function fetchSoon(db: Db, id: number): Promise<boolean> {
  return (await db('fetched_address').where({ id }).update({ next_at: 0 })) > 0;
}

/**
 * The next address whose time has come, put off by its interval so that nobody else fetches it meanwhile; null for none.
 * One that lies further ahead than its interval was put there by a clock that has been set back.
 */
export async function claimAddress(db: Db, now: number): Promise<FetchedAddress | null> {
  const due = await db('fetched_address')
    .where((either) => either.where('next_at', '<=', now).orWhereRaw('next_at > ? + every_minutes * ?', [now, MINUTE]))
    .orderBy('next_at')
    .first('*');
  if (!due) return null;
  const claimed = await db('fetched_address')
    .where({ id: due.id, next_at: due.next_at })
    .update({ next_at: now + due.every_minutes * MINUTE });
  return claimed > 0 ? due : null;
}

/** Notes how a fetch went. */
export async function noteFetched(db: Db, id: number, what: Partial<Omit<FetchedAddress, 'id'>>): Promise<void> {
  await db('fetched_address').where({ id }).update(what);
}

/**
 * How many things that should come by themselves do not: addresses that fail, and sources whose last file nobody brought was
 * stopped since an instant.
 */
export async function countNotComing(db: Db, since: number): Promise<number> {
  const failing = await countOf(db('fetched_address').whereNotNull('failing_since'));
  const stopped = await countOf(
    db('import_run as r')
      .where({ 'r.state': 'failed' })
      .whereNull('r.staff_id')
      .where('r.created_at', '>=', since)
      .whereNotExists(
        db('import_run as later')
          .whereRaw('later.source = r.source AND later.id > r.id AND later.staff_id IS NULL')
          .where('later.state', 'done'),
      ),
  );
  return failing + stopped;
}
