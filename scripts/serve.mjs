/** The server's own process: hands every request to Next, but for the methods that no page and no call takes. */
import { createServer } from 'node:http';
import next from 'next';

const [hostname, port] = process.argv.slice(2);
/** How long a connection is kept for the next request, in ms: longer than proxies in front keep theirs. */
const KEPT = 75_000;

const app = next({ dev: false, hostname, port: Number(port) });
await app.prepare();
const handle = app.getRequestHandler();
const server = createServer((request, response) => {
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
