import { NextResponse, type NextRequest } from 'next/server';
import { isWholeCall } from './server/request/action-call';

/** Is a path whole: does every percent sign in it begin a character? */
function isWhole(path: string): boolean {
  try {
    return decodeURIComponent(path) !== null;
  } catch {
    return false;
  }
}

/** The API and what sources send to: no pages. */
function isForPrograms(path: string): boolean {
  return /^\/(api|xapi)\//.test(path);
}

/** Pages without script, for whoever does not sign in, and what platforms send: they have a policy of their own, which is stricter. */
function isPlainPage(path: string): boolean {
  return /^\/(page|answer|certificate|less|lti)\//.test(path);
}

function brokenAddress(path: string): NextResponse {
  const detail = 'The address is broken: a percent sign in it stands for no character.';
  if (!isForPrograms(path)) return new NextResponse(detail, { status: 400 });
  return NextResponse.json(
    { type: 'about:blank', title: 'Bad request', status: 400, detail },
    { status: 400, headers: { 'content-type': 'application/problem+json' } },
  );
}

/**
 * A broken address is answered here, since no route can be found for it. Pages get a Content-Security-Policy
 * with a nonce of its own for each: scripts and style sheets run by nonce alone; style attributes are allowed,
 * since positions are set by them. The API, statements, figures and uploads pass by unless a percent sign is in their
 * address: they are no pages, and their bodies must not be held here.
 */
export async function proxy(request: NextRequest): Promise<NextResponse> {
  const path = request.nextUrl.pathname;
  if (!isWhole(path)) return brokenAddress(path);
  if (isForPrograms(path) || isPlainPage(path)) return NextResponse.next();
  if (request.method === 'POST' && !(await isWholeCall(request))) {
    return new NextResponse('What was sent is not whole. Load the page anew.', { status: 400 });
  }
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const policy = [
    `default-src 'self'`,
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'`,
    `style-src-elem 'self' 'nonce-${nonce}'`,
    `style-src-attr 'unsafe-inline'`,
    `img-src 'self' data:`,
    `font-src 'self'`,
    `connect-src 'self'`,
    `worker-src 'self'`,
    `object-src 'none'`,
    `base-uri 'none'`,
    `form-action 'self'`,
    `frame-ancestors 'none'`,
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  return response;
}

export const config = {
  matcher: ['/((?!api/|xapi/|caliper$|metrics$|_next/|set-up/data/upload|icon.svg).*)', '/(api|xapi)/(.*%.*)'],
};
