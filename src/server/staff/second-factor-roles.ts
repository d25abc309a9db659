/** Of which roles a second factor is asked for: a setting of the programme. */
import { STAFF_ROLES, type StaffRole } from '@/core/staff/roles';
import { sayList } from '@/core/time/words';
import { addAudit } from '@/data/audit';
import { writing, type Db } from '@/data/db';
import { endSessionsWithoutSecond, factorsOf } from '@/data/staff/second-factor';
import type { Viewer } from '@/data/scope';
import { readSetting, writeSetting } from '@/data/settings';
import { InvalidInput } from '../request/input';
import { requireLead } from '../request/lead';
import type { Runtime } from '../runtime';

const SETTING = 'second_factor_roles';

/** The roles of which a second factor is asked for; none until it is set. */
export async function rolesWithSecond(db: Db): Promise<StaffRole[]> {
  const stored = (await readSetting(db, SETTING))?.split(',') ?? [];
  return STAFF_ROLES.filter((role) => stored.includes(role));
}

/**
 * Sets of which roles a second factor is asked for. Whoever is of them and has none is signed out, and sets one up as they sign
 * in again. Returns how many people that were.
 * @throws InvalidInput for a role that there is none of, or for one's own while one has no second factor oneself
 */
export async function setRolesWithSecond(
  { db, clock }: Runtime,
  viewer: Viewer,
  sent: readonly string[],
): Promise<number> {
  requireLead(viewer);
  const roles = STAFF_ROLES.filter((role) => sent.includes(role));
  if (sent.some((role) => !STAFF_ROLES.some((known) => known === role)))
    throw new InvalidInput([{ field: 'roles', message: `are not among ${STAFF_ROLES.join(', ')}` }]);
  return writing(db, async (trx) => {
    const before = await rolesWithSecond(trx);
    const own = await factorsOf(trx, viewer.staffId);
    if (viewer.staffId !== 0 && roles.includes(viewer.role) && !own.codes && own.passkeys === 0)
      throw new InvalidInput([{ field: 'roles', message: 'include yours: set up your own second factor first' }]);
    if (before.join() === roles.join()) return 0;
    await writeSetting(trx, SETTING, roles.join(','));
    await addAudit(trx, {
      at: clock.now(),
      staff_id: viewer.staffId,
      what: 'set of whom a second factor is asked for',
      subject: roles.length === 0 ? 'nobody' : sayList(roles),
    });
    return endSessionsWithoutSecond(trx, roles);
  });
}
