/** There is always somebody who leads. */
import type { Db } from '@/data/db';
import { countLeads } from '@/data/staff/staff-accounts';
import { InvalidInput } from '../request/input';
import { keepingEmergency } from './provider/rules';

/** Does the work, but refuses what would leave nobody who can manage the rest. @throws InvalidInput */
export async function keepingOneLead(trx: Db, field: string, work: () => Promise<void>): Promise<void> {
  const before = await countLeads(trx);
  await keepingEmergency(trx, field, work);
  if (before > 0 && (await countLeads(trx)) === 0) {
    throw new InvalidInput([{ field, message: 'has to stay: nobody else leads the programme' }]);
  }
}
