/** What every resource of the Experience API shares: versions, who asks, and errors as it has them. */
import { createHash } from 'node:crypto';
import { sourceOfCredential } from '@/data/sources';
import { runtime, type Runtime } from '../runtime';

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

export function hashSecret(secret: string): string {
  return createHash('sha256').update(secret).digest('hex');
}

/** The source behind a basic credential (key and secret) or a bearer one (the secret alone). */
async function sourceOf({ db }: Runtime, request: Request) {
  const [kind, value = ''] = (request.headers.get('authorization') ?? '').split(' ', 2);
  if (/^bearer$/i.test(kind)) return sourceOfCredential(db, hashSecret(value));
  if (!/^basic$/i.test(kind)) return null;
  const text = Buffer.from(value, 'base64').toString();
  const at = text.indexOf(':');
  return at < 0 ? null : sourceOfCredential(db, hashSecret(text.slice(at + 1)), text.slice(0, at));
}

function answer(status: number, body: unknown, version: string): Response {
  const headers = { 'x-experience-api-version': version };
  return body === undefined ? new Response(null, { status, headers }) : Response.json(body, { status, headers });
}

export function respond({ version }: Pick<XapiContext, 'version'>, status: number, body?: unknown): Response {
  return answer(status, body, version);
}

/** Wraps a handler of a resource that needs a credential. */
export function xapi(handle: (context: XapiContext) => Promise<Response>) {
  return async (request: Request): Promise<Response> => {
    const opened = await runtime();
    let version: (typeof VERSIONS)[number] = '2.0.0';
    try {
      version = versionOf(request);
      const source = await sourceOf(opened, request);
      if (!source) {
        const refused = answer(401, { error: 'A credential of a source is needed: basic or bearer.' }, version);
        refused.headers.set('www-authenticate', 'Basic realm="Lee Shore", charset="UTF-8"');
        return refused;
      }
      const params = new URL(request.url).searchParams;
      return await handle({ runtime: opened, request, version, params, ...source });
    } catch (error) {
      if (error instanceof Refused) return answer(error.status, { error: error.message }, version);
      opened.log.error({ err: error }, 'a statement request failed');
      return answer(500, { error: 'Lee Shore could not do this. Nothing was stored; send it again.' }, version);
    }
  };
}
