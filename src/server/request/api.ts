/** What every handler of the API shares: who asks, errors as RFC 9457, lists as JSON or files. */
import { cookies } from 'next/headers';
import { onRecordAs } from '@/data/audit';
import type { Viewer } from '@/data/scope';
import { isLead } from '@/core/staff/rights';
import { SESSION_COOKIE, viewerBySession } from '../staff/sessions';
import { bearerOf, type Bearer } from '../staff/bearers';
import { noteAnswer } from '../privacy/looks';
import { asFile, fileResponse } from './exports';
import { InvalidInput, NotFound, type FieldFault } from './input';
import { isFile, type ListQuery } from './list-query';
import { runtime, type Runtime } from '../runtime';
import { troubleOf } from './trouble';
import { currentViewer } from './viewer';

export function problem(
  status: number,
  title: string,
  detail: string,
  errors?: FieldFault[],
  more: object = {},
): Response {
  return Response.json(
    { type: 'about:blank', title, status, detail, ...(errors ? { errors } : {}), ...more },
    { status, headers: { 'content-type': 'application/problem+json' } },
  );
}

/** The answer of an address that is asked for by another method. */
export function onlyBy(method: string): () => Response {
  return () => {
    const answer = problem(405, 'Method not allowed', `This address takes ${method}.`);
    answer.headers.set('allow', method);
    return answer;
  };
}

export interface ApiContext {
  runtime: Runtime;
  viewer: Viewer;
  request: Request;
  query: Record<string, string>;
}

type Asker = Omit<Bearer, 'via'> & { via: string | null };

interface Access {
  /** Only for somebody who leads the programme; for others it does not exist. */
  lead?: boolean;
}

const isReading = ({ method }: Request) => method === 'GET' || method === 'HEAD';

async function whoAsks(runtime: Runtime, request: Request): Promise<Asker | null> {
  const header = request.headers.get('authorization');
  if (header) return /^bearer /i.test(header) ? bearerOf(runtime, header.slice(7).trim()) : null;
  // A cookie is sent by the browser by itself, so it is good for reading alone.
  if (!isReading(request)) return null;
  const token = (await cookies()).get(SESSION_COOKIE)?.value;
  const viewer = token ? await viewerBySession(runtime, token) : null;
  return viewer && { viewer, mayWrite: false, via: null };
}

/** Wraps a handler with who asks and what an error looks like. */
export function api<P>(handle: (context: ApiContext, params: P) => Promise<Response>, access: Access = {}) {
  return async (request: Request, { params }: { params: Promise<P> }): Promise<Response> => {
    const opened = await runtime();
    try {
      const asker = await whoAsks(opened, request);
      if (!asker) {
        return problem(401, 'Not signed in', 'Send a bearer token, or sign in and use the session for reads.');
      }
      const { viewer, mayWrite, via } = asker;
      if (!mayWrite && !isReading(request)) return problem(403, 'Not allowed', 'This token is for reading alone.');
      if (access.lead && !isLead(viewer)) throw new NotFound();
      const query = Object.fromEntries(new URL(request.url).searchParams);
      const given = await params;
      const answer = await onRecordAs(via, () => handle({ runtime: opened, viewer, request, query }, given));
      noteAnswer(opened, viewer, request, answer, 'api');
      return answer;
    } catch (error) {
      return asProblem(opened, error);
    }
  };
}

export function asProblem({ log }: Pick<Runtime, 'log'>, error: unknown): Response {
  if (error instanceof InvalidInput) return problem(422, 'Not valid', error.message, error.errors, error.more);
  if (error instanceof NotFound) return problem(404, 'Not found', error.message);
  const trouble = troubleOf(error);
  if (trouble) {
    log.warn({ err: error }, `request failed: ${trouble.title}`);
    const answer = problem(trouble.status, trouble.title, trouble.detail);
    if (trouble.retryAfter) answer.headers.set('retry-after', String(trouble.retryAfter));
    return answer;
  }
  log.error({ err: error }, 'request failed');
  return problem(
    500,
    'Something went wrong',
    'Lee Shore could not do this. Nothing was changed; the log says what happened.',
  );
}

/** What is somebody's is nobody else's to keep: no browser's, and nobody's in between. */
function keptByNobody(answer: Response): Response {
  if (!answer.headers.has('cache-control')) answer.headers.set('cache-control', 'private, no-store');
  return answer;
}

type Handle<P> = (context: ApiContext, params: P) => Promise<Response>;
type Routed<P> = { params: Promise<P> };

/**
 * Wraps a handler that answers the application's own pages: whoever is signed in, reading alone.
 *
 * @param byItself an open page asks it again and again, which is no use of the session
 */
export function own<P>(handle: Handle<P>, { byItself = false } = {}) {
  return async (request: Request, { params }: Routed<P>): Promise<Response> =>
    keptByNobody(await answerOwn(handle, request, await params, byItself));
}

async function answerOwn<P>(handle: Handle<P>, request: Request, params: P, byItself: boolean): Promise<Response> {
  const opened = await runtime();
  try {
    const viewer = await currentViewer(byItself);
    if (!viewer) return problem(401, 'Not signed in', 'Sign in again.');
    const query = Object.fromEntries(new URL(request.url).searchParams);
    const answer = await handle({ runtime: opened, viewer, request, query }, params);
    // What a page asks for by itself is no look of anybody's.
    if (!byItself) noteAnswer(opened, viewer, request, answer, 'page');
    return answer;
  } catch (error) {
    return asProblem(opened, error);
  }
}

/** One page of a list, or the whole list as a file. */
export async function listResponse(
  query: ListQuery,
  name: string,
  columns: readonly string[],
  rows: readonly Record<string, unknown>[],
  total: number,
  next: string | null = null,
): Promise<Response> {
  if (isFile(query)) {
    return fileResponse(asFile(query.format, columns, rows), name, query.format);
  }
  return Response.json({ data: rows, next, total });
}
