/** What every resource of the Experience API shares: versions, who asks, and errors as it has them. */
import { depthOf } from '@/core/feed/xapi/depth';
import type { Json } from '@/core/feed/xapi/values';
import { readBody } from '@/server/request/request-body';
import { runtime, type Runtime } from '@/server/runtime';
import { sourceOf } from '../credential';
import { troubleOf } from '@/server/request/trouble';

/** The versions spoken, the newest of each kind. */
export const VERSIONS = ['1.0.3', '2.0.0'] as const;

/** A request that the standard has refused, with its status. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

export interface XapiContext {
  runtime: Runtime;
  request: Request;
  /** The source whose credential this is. */
  sourceId: number;
  key: string;
  version: (typeof VERSIONS)[number];
  params: URLSearchParams;
}

/** The version to answer in: that of the header, which every request must have. */
function versionOf(request: Request): (typeof VERSIONS)[number] {
  const header = request.headers.get('x-experience-api-version');
  if (header === null) throw new Refused(400, 'The header X-Experience-API-Version is missing.');
  if (/^1\.0(\.\d+)?$/.test(header)) return '1.0.3';
  if (/^2\.0(\.\d+)?$/.test(header)) return '2.0.0';
  throw new Refused(400, `Version ${header} is not spoken here, but ${VERSIONS.join(' and ')} are.`);
}

function answer(status: number, body: unknown, version: string): Response {
  const headers = { 'x-experience-api-version': version };
  return body === undefined ? new Response(null, { status, headers }) : Response.json(body, { status, headers });
}

export function respond({ version }: Pick<XapiContext, 'version'>, status: number, body?: unknown): Response {
  return answer(status, body, version);
}

const METHODS = ['GET', 'PUT', 'POST'] as const;
type Method = (typeof METHODS)[number];

/** Headers that a form may carry in place of the request's own. */
const FORM_HEADERS = ['authorization', 'x-experience-api-version', 'content-type', 'accept-language'];

/**
 * The request that a form stands for: 1.0.x has whoever can send nothing else put method,
 * parameters, headers and content into one (the alternate request syntax of its part three, 1.3).
 * Any other request is itself.
 */
async function asMeant(request: Request, most: number): Promise<Request> {
  const address = new URL(request.url);
  const method = address.searchParams.get('method')?.toUpperCase();
  if (request.method !== 'POST' || method === undefined) return request;
  if (address.searchParams.size > 1)
    throw new Refused(400, 'Beside method, the address of a form takes no parameters.');
  if (!METHODS.includes(method as Method)) throw new Refused(405, `${method} is not taken here.`);
  if (!/^application\/x-www-form-urlencoded\b/i.test(request.headers.get('content-type') ?? '')) {
    throw new Refused(400, 'A request with method in its address is a form.');
  }
  const form = await readText(request, most);
  const headers = new Headers();
  const meant = new URL(address.pathname, address);
  let content: string | undefined;
  for (const [name, value] of new URLSearchParams(form)) {
    if (name === 'content') content = value;
    else if (FORM_HEADERS.includes(name.toLowerCase())) headers.set(name, value);
    else if (!/^(content-length|if-(none-)?match)$/i.test(name)) meant.searchParams.append(name, value);
  }
  const sentAuthorization = request.headers.get('authorization');
  if (sentAuthorization !== null && !headers.has('authorization')) headers.set('authorization', sentAuthorization);
  if (content !== undefined && !headers.has('content-type')) headers.set('content-type', 'application/json');
  const formed = new Request(meant, { method, headers, body: method === 'GET' ? undefined : content });
  if (versionOf(formed) !== '1.0.3') throw new Refused(400, 'Version 2.0 has no requests by form.');
  return formed;
}

/** The largest request that is taken, in bytes. */
const MOST_BYTES = 10 * 1024 * 1024;
/** The largest form of somebody who has not said who they are: its credential may stand anywhere in it. */
const MOST_OF_NOBODY = 256 * 1024;

/** The body of a request, read in pieces. @throws Refused for one that is too large, without reading its rest */
export async function readText(request: Request, most = MOST_BYTES): Promise<string> {
  const size = most === MOST_BYTES ? '10 MB' : '256 kB: a larger one needs its credential in the header Authorization';
  const tooLarge = new Refused(413, `The request is larger than ${size}.`);
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLarge;
  const body = await readBody(request.body, most);
  if (body === null) throw tooLarge;
  return body.toString('utf8');
}

/** How deep objects and lists may stand in one another. */
const DEEPEST = 100;

/** JSON, read. @throws Refused for what is none, or stands too deep in itself to be looked through */
export function readJsonText(text: string): Json {
  if (depthOf(text) > DEEPEST) throw new Refused(400, `The body is nested deeper than ${DEEPEST}.`);
  try {
    return JSON.parse(text);
  } catch {
    throw new Refused(400, 'The body is not JSON.');
  }
}

function unknown(version: string): Response {
  const refused = answer(401, { error: 'A credential of a source is needed: basic or bearer.' }, version);
  refused.headers.set('www-authenticate', 'Basic realm="Lee Shore", charset="UTF-8"');
  return refused;
}

/** A resource that needs a credential, by what each method does. */
export function resource(methods: Record<Method, (context: XapiContext) => Promise<Response>>) {
  return async (sent: Request): Promise<Response> => {
    const opened = await runtime();
    let version: (typeof VERSIONS)[number] = '2.0.0';
    try {
      // Who is there comes before anything they send is read.
      const named = sent.headers.has('authorization') ? await sourceOf(opened, 'xapi', sent) : null;
      if (sent.headers.has('authorization') && !named) return unknown(version);
      const request = await asMeant(sent, named ? MOST_BYTES : MOST_OF_NOBODY);
      version = versionOf(request);
      const source = named ?? (await sourceOf(opened, 'xapi', request));
      if (!source) return unknown(version);
      const params = new URL(request.url).searchParams;
      const handle = methods[(request.method === 'HEAD' ? 'GET' : request.method) as Method];
      return await handle({ runtime: opened, request, version, params, ...source });
    } catch (error) {
      if (error instanceof Refused) return answer(error.status, { error: error.message }, version);
      const trouble = troubleOf(error);
      if (trouble) {
        opened.log.warn({ err: error }, `a statement request failed: ${trouble.title}`);
        return answer(trouble.status, { error: `${trouble.detail} Nothing was stored; send it again.` }, version);
      }
      opened.log.error({ err: error }, 'a statement request failed');
      return answer(500, { error: 'Lee Shore could not do this. Nothing was stored; send it again.' }, version);
    }
  };
}
