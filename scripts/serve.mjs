/** The server's own process: hands every request to Next, but for the methods that no page and no call takes. */
import { createServer } from 'node:http';
import next from 'next';
import { Counter, Histogram, collectDefaultMetrics } from 'prom-client';

const [hostname, port] = process.argv.slice(2);
/** How long a connection is kept for the next request, in ms: longer than proxies in front keep theirs. */
const KEPT = 75_000;

const app = next({ dev: false, hostname, port: Number(port) });
await app.prepare();
const handle = app.getRequestHandler();
// Counted here, where every request comes by; the page of figures reads the same registry.
collectDefaultMetrics();
const requests = new Counter({
  name: 'leeshore_requests_total',
  help: 'Requests that were answered',
  labelNames: ['method', 'of', 'status'],
});
const took = new Histogram({
  name: 'leeshore_request_seconds',
  help: 'How long requests took to be answered',
  labelNames: ['of'],
  buckets: [0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10],
});

/** What a request is for: never its address, which may name somebody. */
function kindOf(url = '') {
  if (/^\/(api|xapi|caliper|metrics)\b/.test(url)) return 'program';
  // A page that stays open for what comes: how long that takes says nothing.
  if (/\/stream\b/.test(url)) return 'stream';
  return url.startsWith('/_next/') ? 'file' : 'page';
}

const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'DELETE', 'OPTIONS']);

function count(request, response) {
  const of = kindOf(request.url);
  const end = took.startTimer({ of });
  response.once('close', () => {
    end();
    // A method that nobody knows makes no series of its own.
    const method = METHODS.has(request.method) ? request.method : 'other';
    requests.inc({ method, of, status: String(response.statusCode) });
  });
}

const server = createServer((request, response) => {
  count(request, response);
  // Fetch knows no such request, and what cannot be told as one would fail inside.
  if (request.method !== 'TRACE') return handle(request, response);
  response.writeHead(405, { allow: 'GET, HEAD, POST, OPTIONS', 'content-type': 'text/plain' });
  response.end('This address takes no TRACE.');
});
server.keepAliveTimeout = KEPT;
server.on('error', (error) => {
  console.error(error.code === 'EADDRINUSE' ? `Port ${port} is taken by another program.` : error.message);
  process.exit(1);
});
server.listen(Number(port), hostname, () => console.log(`Lee Shore answers at http://${hostname}:${port}`));

/** What is being answered is answered; then it is over. */
function end() {
  server.close(() => process.exit(0));
  server.closeIdleConnections();
  setTimeout(() => server.closeAllConnections(), 3000).unref();
}
for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, end);
