import { isMigrated } from '@/server/request/reads';
import { asProblem, problem } from '@/server/request/api';
import { damageFound } from '@/server/integrity';
import { runtime } from '@/server/runtime';
import { troubleOf } from '@/server/request/trouble';
import { version } from '../../../../../package.json';

export const dynamic = 'force-dynamic';

export async function GET(): Promise<Response> {
  const opened = await runtime();
  try {
    if (!(await isMigrated(opened))) return problem(503, 'Not ready', 'The database is being brought up to date.');
    const damage = damageFound(opened);
    if (damage !== null) {
      const { title, detail } = troubleOf({ code: 'SQLITE_CORRUPT' })!;
      return problem(503, title, `${detail} It was found in: ${damage}.`);
    }
    return Response.json({ status: 'ok', version, migrated: true });
  } catch (error) {
    return asProblem(opened, error);
  }
}
