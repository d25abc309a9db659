/**
 * The mail stand-in: an SMTP server that keeps what it is sent, and a small inbox page.
 * For the demo and the tests; it keeps everything in memory and listens on this machine alone.
 */
import { createServer } from 'node:http';
import { openInbox } from './inbox';
import { inboxPage, messagePage } from './page';

const smtpPort = Number(process.env.MAIL_SMTP_PORT ?? 4302);
const httpPort = Number(process.env.MAIL_HTTP_PORT ?? 4303);

const inbox = await openInbox(smtpPort);

createServer((request, response) => {
  const url = new URL(request.url ?? '/', 'http://inbox');
  const send = (status: number, type: string, body: string) => {
    response.writeHead(status, {
      'content-type': `${type}; charset=utf-8`,
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'",
    });
    response.end(body);
  };
  if (url.pathname === '/messages.json') return send(200, 'application/json', JSON.stringify(inbox.mails));
  const mail = inbox.mails.find((one) => url.pathname === `/mail/${one.id}`);
  if (mail) return send(200, 'text/html', messagePage(mail));
  if (url.pathname === '/') return send(200, 'text/html', inboxPage(inbox.mails, url.searchParams.get('q') ?? ''));
  send(404, 'text/plain', 'Nothing here.');
}).listen(httpPort, '127.0.0.1', () =>
  console.log(`Mail stand-in: SMTP on ${smtpPort}, inbox on http://127.0.0.1:${httpPort}`),
);
