/**
 * The mail stand-in: an SMTP server that keeps what it is sent, and a small inbox page from which
 * one answers as the learner. For the demo and the tests; it keeps everything in memory and
 * listens on this machine alone.
 */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { bodyOf, send } from '../page';
import { composeAnswer, composeBounce, deliver, type Inbound } from './answers';
import { openInbox, type Mail } from './inbox';
import { inboxPage, messagePage } from './page';

const smtpPort = Number(process.env.MAIL_SMTP_PORT ?? 4302);
const httpPort = Number(process.env.MAIL_HTTP_PORT ?? 4303);
const inbound: Inbound | null = process.env.MAIL_INBOUND_URL
  ? { url: process.env.MAIL_INBOUND_URL, token: process.env.LEESHORE_INBOUND_TOKEN ?? '' }
  : null;

const inbox = await openInbox(smtpPort);

async function act(request: IncomingMessage, mail: Mail, what: string): Promise<string> {
  if (!inbound) return 'No address is set at which Lee Shore takes mail in.';
  const form = new URLSearchParams(await bodyOf(request));
  const source =
    what === 'bounce'
      ? await composeBounce(mail)
      : await composeAnswer(mail, form.get('text') ?? '', form.get('elsewhere') === 'yes');
  return deliver(inbound, source);
}

async function handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://inbox');
  if (url.pathname === '/messages.json') return send(response, 200, 'application/json', JSON.stringify(inbox.mails));
  if (url.pathname === '/')
    return send(response, 200, 'text/html', inboxPage(inbox.mails, url.searchParams.get('q') ?? ''));
  const [, id, what] = /^\/mail\/(\d+)(?:\/(answer|bounce))?$/.exec(url.pathname) ?? [];
  const mail = inbox.mails.find((one) => String(one.id) === id);
  if (!mail || (what && request.method !== 'POST')) return send(response, 404, 'text/plain', 'Nothing here.');
  send(response, 200, 'text/html', messagePage(mail, what ? await act(request, mail, what) : ''));
}

createServer((request, response) => {
  handle(request, response).catch((error: Error) => send(response, 500, 'text/plain', error.message));
}).listen(httpPort, '127.0.0.1', () =>
  console.log(`Mail stand-in: SMTP on ${smtpPort}, inbox on http://127.0.0.1:${httpPort}`),
);
