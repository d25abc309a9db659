import { isMigrated } from '@/data/db';
import { problem } from '@/server/api';
import { runtime } from '@/server/runtime';
import { version } from '../../../../../package.json';

export const dynamic = 'force-dynamic';

export async function GET(): Promise<Response> {
  const { db } = await runtime();
  if (!(await isMigrated(db))) return problem(503, 'Not ready', 'The database is being brought up to date.');
  return Response.json({ status: 'ok', version, migrated: true });
}
