/** What the tests of statements have in common: two sources, and calls as a platform makes them. */
import type { JsonObject } from '@/core/feed/xapi/values';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { smallRuntime } from '@/server/testing';
import { makeCredential, type NewCredential } from '../sources';

export const ADDRESS = 'http://127.0.0.1/xapi/statements';
const RUNTIME = Symbol.for('lee-shore.runtime');

export const basic = ({ key, secret }: NewCredential) => `Basic ${Buffer.from(`${key}:${secret}`).toString('base64')}`;

export const statement = (who: string, item: string, word = 'opened', more: JsonObject = {}): JsonObject => ({
  actor: { mbox: `mailto:${who}@learner.example` },
  verb: { id: `https://verbs.example/${word}` },
  object: { id: `https://campus.example/courses/DRY/${item}` },
  timestamp: '2026-11-24T09:00:00Z',
  ...more,
});

type Method = 'GET' | 'POST' | 'PUT';

export type Door = Awaited<ReturnType<typeof openDoor>>;

/**
 * A small programme whose door for statements is open, with credentials of two sources.
 * @param handlers what answers at the door
 */
export async function openDoor(handlers: Record<Method, (request: Request) => Promise<Response>>) {
  const runtime = await smallRuntime();
  (globalThis as Record<symbol, unknown>)[RUNTIME] = Promise.resolve(runtime);
  const campus = await makeCredential(runtime, SYSTEM_VIEWER, { source: 'campus' });
  const other = await makeCredential(runtime, SYSTEM_VIEWER, { source: 'elsewhere' });
  return {
    runtime,
    campus,
    other,
    /** A call by campus, unless the headers say otherwise. */
    ask(method: Method, query = '', body?: unknown, headers: Record<string, string> = {}) {
      return handlers[method](
        new Request(ADDRESS + query, {
          method,
          headers: {
            authorization: basic(campus),
            'x-experience-api-version': '1.0.3',
            ...(body === undefined ? {} : { 'content-type': 'application/json' }),
            ...headers,
          },
          body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
        }),
      );
    },
    async close() {
      delete (globalThis as Record<symbol, unknown>)[RUNTIME];
      await runtime.close();
    },
  };
}
