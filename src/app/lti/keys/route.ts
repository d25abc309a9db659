import { runtime } from '@/server/runtime';
import { ownKeySet } from '@/server/staff/platform/keys';

export const dynamic = 'force-dynamic';

/** Our public key, for platforms (RFC 7517). */
export async function GET(): Promise<Response> {
  return Response.json(await ownKeySet(await runtime()), { headers: { 'cache-control': 'public, max-age=600' } });
}
