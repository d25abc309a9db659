import type { Db } from '@/data/db';
import type { Runtime } from '../runtime';

/**
 * A read of the data layer as a screen asks for it: of the runtime, so that no screen holds a database.
 *
 * @example export const listStaff = reader(staffAccounts.listStaff);
 * // in a page: await listStaff(runtime, viewer)
 */
export function reader<Rest extends unknown[], Result>(read: (db: Db, ...rest: Rest) => Result) {
  return ({ db }: Pick<Runtime, 'db'>, ...rest: Rest): Result => read(db, ...rest);
}
