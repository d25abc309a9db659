import { randomUUID } from 'node:crypto';
import { cookies, headers } from 'next/headers';
import { NotFound } from '@/server/request/input';
import { readBody } from '@/server/request/request-body';
import { clientAddress } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { atTheDoor, checkIn, type CheckInAnswer } from '@/server/sessions/check-in';
import { wakeWorker } from '@/server/worker-host';
import { doorPage, noDoorPage } from './door-page';

/** What one device is known by, for check-ins alone. */
const DEVICE_COOKIE = 'lee_shore_device';
const DEVICE_KEPT = 200 * 24 * 3600;
const LARGEST = 4096;

type Context = { params: Promise<{ sessionId: string }> };

async function pageOf(sessionId: string, said: CheckInAnswer | null, filledId: string): Promise<Response> {
  const nonce = (await headers()).get('x-nonce') ?? '';
  try {
    return htmlAnswer(doorPage(await atTheDoor(await runtime(), sessionId), said, filledId, nonce), 200);
  } catch (error) {
    if (!(error instanceof NotFound)) throw error;
    return htmlAnswer(noDoorPage(nonce), 404);
  }
}

function htmlAnswer(body: string, status: number): Response {
  return new Response(body, {
    status,
    headers: {
      'content-type': 'text/html; charset=utf-8',
      'cache-control': 'private, no-store',
      'x-robots-tag': 'noindex',
    },
  });
}

/** The learner's page: no account and no script, so that an old telephone will do. */
export async function GET(_: Request, { params }: Context): Promise<Response> {
  const jar = await cookies();
  if (!jar.has(DEVICE_COOKIE)) {
    jar.set(DEVICE_COOKIE, randomUUID(), { httpOnly: true, sameSite: 'lax', path: '/in', maxAge: DEVICE_KEPT });
  }
  return pageOf((await params).sessionId, null, '');
}

export async function POST(request: Request, { params }: Context): Promise<Response> {
  const { sessionId } = await params;
  const body = await readBody(request.body, LARGEST);
  const form = new URLSearchParams(body?.toString('utf8') ?? '');
  const id = (form.get('learner_id') ?? '').slice(0, 200);
  const code = (form.get('code') ?? '').replaceAll(/\D/g, '').slice(0, 6);
  const address = await clientAddress();
  // A browser that keeps no cookie is told by where it comes from and what it is.
  const device = (await cookies()).get(DEVICE_COOKIE)?.value ?? `${address}/${request.headers.get('user-agent') ?? ''}`;
  const said = await checkIn(await runtime(), sessionId, { learnerId: id, code, device, address });
  if (said.ok) wakeWorker();
  return pageOf(sessionId, said, said.ok ? '' : id);
}
