import { randomUUID } from 'node:crypto';
import { cookies, headers } from 'next/headers';
import { NotFound } from '@/server/request/input';
import { readBody } from '@/server/request/request-body';
import { clientAddress } from '@/server/request/viewer';
import { runtime } from '@/server/runtime';
import { networkOf, readDevice, signDevice } from '@/server/sessions/door';
import { atTheDoor, checkIn, doorKey, type CheckInAnswer } from '@/server/sessions/check-in';
import { wakeWorker } from '@/server/worker-host';
import { doorPage, noDoorPage } from './door-page';

/** What one device is known by, for check-ins alone. */
const DEVICE_COOKIE = 'lee_shore_device';
const DEVICE_KEPT = 200 * 24 * 3600;
const LARGEST = 4096;

type Context = { params: Promise<{ sessionId: string }> };

async function pageOf(sessionId: string, said: CheckInAnswer | null, filled: string): Promise<Response> {
  const nonce = (await headers()).get('x-nonce') ?? '';
  try {
    return htmlAnswer(doorPage(await atTheDoor(await runtime(), sessionId), said, filled, nonce), 200);
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
  const [jar, opened] = [await cookies(), await runtime()];
  const key = await doorKey(opened);
  // Signed when the page is first asked for: a device that was made up is none.
  if (readDevice(key, jar.get(DEVICE_COOKIE)?.value) === null) {
    const signed = signDevice(key, randomUUID(), opened.clock.now());
    jar.set(DEVICE_COOKIE, signed, { httpOnly: true, sameSite: 'lax', path: '/in', maxAge: DEVICE_KEPT });
  }
  return pageOf((await params).sessionId, null, '');
}

export async function POST(request: Request, { params }: Context): Promise<Response> {
  const { sessionId } = await params;
  const body = await readBody(request.body, LARGEST);
  const form = new URLSearchParams(body?.toString('utf8') ?? '');
  const given = (name: string, most: number) => (form.get(name) ?? '').slice(0, most);
  const who = given('who', 320);
  const code = (form.get('code') ?? '').replaceAll(/\D/g, '').slice(0, 6);
  const address = await clientAddress();
  const agent = request.headers.get('user-agent') ?? '';
  const opened = await runtime();
  const known = readDevice(await doorKey(opened), (await cookies()).get(DEVICE_COOKIE)?.value);
  // A browser that keeps no cookie is told by where it comes from and what it is.
  const device = known ?? { id: `${networkOf(address)}/${agent}`, since: null };
  const asked = { who, code, choice: given('choice', 60), pass: given('pass', 100), device, address, agent };
  const said = await checkIn(opened, sessionId, asked);
  if (said.ok) wakeWorker();
  return pageOf(sessionId, said, said.ok ? '' : who);
}
