/** Fetching a file by https: no further than the open network, no longer than half a minute, and only when it has changed. */
import { createHash } from 'node:crypto';
import { lookup as lookUp, type LookupAddress } from 'node:dns';
import { createWriteStream } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { request, type RequestOptions } from 'node:https';
import { isIP, type LookupFunction } from 'node:net';
import { pipeline } from 'node:stream/promises';
import { isPrivateAddress } from './private';

/** How long it may take, whole, in ms. */
const LIMIT = 30_000;
const MOST_REDIRECTS = 5;
const LARGEST = 200 * 1024 ** 2;

/** A file that could not be fetched, and why: a sentence's end, after the address. */
export class NotFetched extends Error {
  override name = 'NotFetched';
}

export interface Asked {
  url: string;
  /** What the server said of it when it was fetched last. */
  etag: string | null;
  modified: string | null;
}

export interface FetchOptions {
  /** May the address be a private one? */
  allowPrivate: boolean;
  /** Whose certificates are trusted, where it is not those that the machine trusts. */
  ca?: string;
  limit?: number;
}

export interface Fetched {
  etag: string | null;
  modified: string | null;
  /** SHA-256 of what came, in hex. */
  digest: string;
}

/** Looks a name up, and refuses what leads into the house: the address that was looked at is the one that is then asked. */
const openLookup: LookupFunction = (host, options, callback) => {
  lookUp(host, { ...options, all: true }, (error, addresses: LookupAddress[]) => {
    if (error) return callback(error, '', 0);
    const bad = addresses.find(({ address }) => isPrivateAddress(address));
    if (bad || addresses.length === 0) return callback(new NotFetched(IS_PRIVATE), '', 0);
    if (options.all) return (callback as unknown as (e: null, all: LookupAddress[]) => void)(null, addresses);
    callback(null, addresses[0].address, addresses[0].family);
  });
};

/** What a request goes with so that it leads nowhere into the house, unless that is let through. @throws NotFetched */
export function noFurther(url: URL, allowPrivate: boolean): { lookup?: LookupFunction } {
  if (allowPrivate) return {};
  const host = url.hostname.replace(/^\[|\]$/g, '');
  if (isIP(host) !== 0 && isPrivateAddress(host)) throw new NotFetched(IS_PRIVATE);
  return { lookup: openLookup };
}

const IS_PRIVATE = 'is a private address, which only the setting LEESHORE_PRIVATE_ADDRESSES lets through';

async function ask(
  url: URL,
  asked: Asked,
  { allowPrivate, ca }: FetchOptions,
  signal: AbortSignal,
): Promise<IncomingMessage> {
  if (url.protocol !== 'https:') throw new NotFetched('does not stay with https');
  const options: RequestOptions = {
    signal,
    ca,
    ...noFurther(url, allowPrivate),
    headers: {
      accept: '*/*',
      'user-agent': 'Lee Shore',
      ...(asked.etag !== null && { 'if-none-match': asked.etag }),
      ...(asked.etag === null && asked.modified !== null && { 'if-modified-since': asked.modified }),
    },
  };
  return new Promise((resolve, reject) => request(url, options, resolve).on('error', reject).end());
}

/**
 * Fetches a file into a path.
 *
 * @returns null when the server says that it has not changed
 * @throws NotFetched
 */
export async function fetchFile(asked: Asked, path: string, options: FetchOptions): Promise<Fetched | null> {
  const limit = options.limit ?? LIMIT;
  const signal = AbortSignal.timeout(limit);
  try {
    let url = new URL(asked.url);
    for (let hops = 0; hops <= MOST_REDIRECTS; hops += 1) {
      const answer = await ask(url, asked, options, signal);
      const status = answer.statusCode ?? 0;
      if (status === 200) return await keep(answer, path, signal);
      answer.destroy();
      if (status === 304) return null;
      const { location } = answer.headers;
      if (![301, 302, 303, 307, 308].includes(status) || location === undefined)
        throw new NotFetched(`answers ${status}`);
      url = new URL(location, url);
    }
    throw new NotFetched(`leads on more than ${MOST_REDIRECTS} times`);
  } catch (error) {
    throw asNotFetched(error, signal, limit);
  }
}

async function keep(answer: IncomingMessage, path: string, signal: AbortSignal): Promise<Fetched> {
  const hash = createHash('sha256');
  await pipeline(
    answer,
    async function* (chunks: AsyncIterable<Buffer>) {
      let size = 0;
      for await (const chunk of chunks) {
        size += chunk.length;
        if (size > LARGEST) throw new NotFetched('is larger than 200 MB');
        hash.update(chunk);
        yield chunk;
      }
    },
    createWriteStream(path),
    { signal },
  );
  if (!answer.complete) throw new NotFetched('broke off');
  const { etag = null, 'last-modified': modified = null } = answer.headers;
  return { etag, modified, digest: hash.digest('hex') };
}

const CODES: Readonly<Record<string, string>> = {
  ENOTFOUND: 'has a name that nobody knows',
  EAI_AGAIN: 'has a name that could not be looked up',
  ECONNREFUSED: 'refuses the connection',
  ECONNRESET: 'broke off',
  ERR_STREAM_PREMATURE_CLOSE: 'broke off',
  ETIMEDOUT: 'does not answer',
  EHOSTUNREACH: 'cannot be reached',
  ENETUNREACH: 'cannot be reached',
};

/** What went wrong out there; what is wrong with this machine stays what it is. */
function asNotFetched(error: unknown, signal: AbortSignal, limit: number): unknown {
  if (error instanceof NotFetched) return error;
  if (signal.aborted) return new NotFetched(`did not answer whole within ${limit / 1000} s`);
  const { code = '', message } = error as NodeJS.ErrnoException;
  if (Object.hasOwn(CODES, code)) return new NotFetched(CODES[code]);
  if (/^(CERT_|ERR_TLS|DEPTH_ZERO|SELF_SIGNED|UNABLE_TO|EPROTO|ERR_SSL)/.test(code))
    return new NotFetched(`has a certificate that is not trusted (${message.split(';')[0].slice(0, 100)})`);
  if (code === 'ERR_INVALID_URL' || code.startsWith('HPE_'))
    return new NotFetched('does not answer as a web server does');
  return error;
}
