/**
 * Whether the server can be reached, as the page's own requests tell, and what becomes of them while it cannot.
 *
 * The framework answers a page that could not be fetched by leaving for its address, which without a connection is the
 * browser's own error page: what was typed is gone, and a roll that is being taken as well. Here such a request waits
 * and is made again. What somebody did is never sent twice: it fails, and is said (see `usePending`).
 */

/** What was asked for could not be sent, or its answer was lost. */
export class NoConnection extends Error {
  constructor(cause: unknown) {
    super('There is no connection.', { cause });
    this.name = 'NoConnection';
  }
}

/** The waits between tries, in ms; the last is repeated. */
const WAITS = [500, 1000, 2000, 4000];

/** Waits for the next try; shorter where the browser says that its network is back. */
function untilNextTry(tries: number): Promise<void> {
  return new Promise((resolve) => {
    const go = () => {
      clearTimeout(timer);
      window.removeEventListener('online', go);
      resolve();
    };
    const timer = setTimeout(go, WAITS[Math.min(tries, WAITS.length - 1)]);
    window.addEventListener('online', go);
  });
}

/** A page to show (asked for by the framework), a deed (a server action), or anything else. */
function kindOf(init: RequestInit | undefined): 'page' | 'deed' | 'other' {
  const headers = new Headers(init?.headers);
  if (headers.has('next-action')) return 'deed';
  return headers.has('rsc') && !headers.has('next-router-prefetch') ? 'page' : 'other';
}

/** The answer with all of its body here, so that it cannot break off while it is being shown. */
async function whole(answer: Response): Promise<Response> {
  const { status, statusText, headers, url, redirected } = answer;
  const copy = new Response(answer.body && (await answer.arrayBuffer()), { status, statusText, headers });
  // The router goes by where the answer came from.
  return Object.defineProperties(copy, { url: { value: url }, redirected: { value: redirected } });
}

/**
 * The requests of a page, over a connection that comes and goes.
 *
 * @param ask the browser's `fetch`
 * @param wait until a page is asked for again, after so many tries
 * @example
 * const { fetch, isLost } = overConnection(window.fetch);
 * await fetch('/watch', { headers: { rsc: '1' } }); // comes when the connection is back, however long that takes
 */
export function overConnection(ask: typeof fetch, wait: (tries: number) => Promise<void> = untilNextTry) {
  let lost = false;
  const listeners = new Set<() => void>();
  const tell = (is: boolean) => {
    if (lost === is) return;
    lost = is;
    for (const listener of listeners) listener();
  };
  const through: typeof fetch = async (input, init) => {
    const kind = kindOf(init);
    for (let tries = 0; ; tries += 1) {
      try {
        const answer = await ask(input, init);
        const given = kind === 'page' ? await whole(answer) : answer;
        tell(false);
        return given;
      } catch (error) {
        // Only this says that the network failed; a request that was called off says otherwise.
        if (!(error instanceof TypeError)) throw error;
        tell(true);
        if (kind === 'deed') throw new NoConnection(error);
        if (kind === 'other') throw error;
        await wait(tries);
      }
    }
  };
  return {
    fetch: through,
    isLost: () => lost,
    /** @returns ends it */
    subscribe: (listener: () => void) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
}

/** The connection of this page. On the server, where nothing is asked through it, it is never lost. */
export const connection = overConnection((input, init) => browserFetch(input, init));

let browserFetch: typeof fetch = globalThis.fetch;

/** Has every request of this page go over `connection`; once, before the page comes to life. */
export function watchConnection(): void {
  browserFetch = window.fetch.bind(window);
  window.fetch = connection.fetch;
}
