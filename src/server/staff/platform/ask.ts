/** Asking a course platform, server to server: no further than it is allowed, no longer than ten seconds. */
import { request as askOpen, type IncomingMessage } from 'node:http';
import { request as askSecurely } from 'node:https';
import { NotFetched, noFurther } from '../../imports/addresses/fetch';
import { readBody } from '../../request/request-body';
import type { Runtime } from '../../runtime';

const PATIENCE = 10_000;
const LARGEST = 20 * 1024 ** 2;
const OWN_MACHINE = ['localhost', '127.0.0.1', '[::1]'];

/** Why a platform did not answer as it should: a sentence's end, after its name. */
export class NotAnswered extends Error {
  override name = 'NotAnswered';
}

/**
 * Is an address one that may be asked: by https, or of this machine where private addresses are let through?
 * @returns what is wrong with it; null for nothing
 */
export function faultOf(url: string, { allowPrivate }: Pick<Runtime['settings'], 'allowPrivate'>): string | null {
  if (!URL.canParse(url)) return 'is not an address';
  const { protocol, hostname, username } = new URL(url);
  if (username !== '') return 'has a name before its host';
  if (protocol === 'https:') return null;
  return protocol === 'http:' && allowPrivate && OWN_MACHINE.includes(hostname) ? null : 'does not begin with https://';
}

interface Asked {
  headers?: Record<string, string>;
  /** A form that is posted; without it the address is read. */
  form?: URLSearchParams;
}

/**
 * What an address answers as JSON, with the address of its next page. It leads nowhere else: what it answers with would go there.
 * @throws NotAnswered
 */
export async function askJson(
  settings: Pick<Runtime['settings'], 'allowPrivate'>,
  url: string,
  { headers = {}, form }: Asked = {},
): Promise<{ json: unknown; next: string | null }> {
  const fault = faultOf(url, settings);
  if (fault !== null) throw new NotAnswered(fault);
  const body = form?.toString();
  const { statusCode, headers: answered, content } = await ask(settings, new URL(url), headers, body);
  if (statusCode !== 200) throw new NotAnswered(`answers ${statusCode}`);
  if (content === null) throw new NotAnswered('answers with more than 20 MB');
  try {
    return { json: JSON.parse(content.toString('utf8')), next: nextOf(answered.link, url) };
  } catch {
    throw new NotAnswered('answers with what is no JSON');
  }
}

async function ask(
  { allowPrivate }: Pick<Runtime['settings'], 'allowPrivate'>,
  url: URL,
  headers: Record<string, string>,
  body: string | undefined,
) {
  const signal = AbortSignal.timeout(PATIENCE);
  const send = url.protocol === 'https:' ? askSecurely : askOpen;
  const type = body === undefined ? {} : { 'content-type': 'application/x-www-form-urlencoded' };
  try {
    const answer = await new Promise<IncomingMessage>((resolve, reject) =>
      send(
        url,
        {
          method: body === undefined ? 'GET' : 'POST',
          signal,
          headers: { accept: 'application/json', 'user-agent': 'Lee Shore', ...headers, ...type },
          ...noFurther(url, allowPrivate),
        },
        resolve,
      )
        .on('error', reject)
        .end(body),
    );
    const content = await readBody(answer as unknown as ReadableStream<Uint8Array>, LARGEST);
    if (content === null) answer.destroy();
    return { statusCode: answer.statusCode, headers: answer.headers, content };
  } catch (error) {
    if (error instanceof NotFetched) throw new NotAnswered(error.message);
    throw new NotAnswered(signal.aborted ? 'does not answer in time' : 'cannot be reached', { cause: error });
  }
}

/** The next page by `Link` (RFC 8288); of the same server alone. */
function nextOf(link: string | string[] | undefined, url: string): string | null {
  const found = /<([^>]*)>\s*;[^,]*\brel="?next"?/i.exec([link].flat().join(', '))?.[1];
  if (found === undefined || !URL.canParse(found, url)) return null;
  const next = new URL(found, url);
  return next.origin === new URL(url).origin ? next.href : null;
}
