import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { bodyOf, frame, html, send } from '../page';

interface Text {
  id: number;
  key: string;
  to: string;
  from: string;
  text: string;
  at: string;
}

export interface Gateway {
  texts: Text[];
  server: Server;
  /** While set, every message is answered with this status instead of taken. */
  refuse(status: number | null): void;
}

/** An HTTP gateway for text messages that keeps what it is sent; a key it has seen is taken once. */
export function openGateway(): Gateway {
  const texts: Text[] = [];
  let refusing: number | null = null;
  async function handle(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const url = new URL(request.url ?? '/', 'http://gateway');
    const json = (status: number, value: unknown) => send(response, status, 'application/json', JSON.stringify(value));
    if (url.pathname === '/messages.json') return json(200, texts);
    if (url.pathname === '/') return send(response, 200, 'text/html', page(texts, url.searchParams.get('q') ?? ''));
    if (url.pathname !== '/messages' || request.method !== 'POST')
      return send(response, 404, 'text/plain', 'Nothing here.');
    const { to, text, from } = JSON.parse(await bodyOf(request));
    if (refusing !== null) return json(refusing, { error: 'refused' });
    if (!/^\+?\d{7,15}$/.test(to)) return json(422, { error: 'to is not a number' });
    if (typeof text !== 'string' || text === '') return json(422, { error: 'text is missing' });
    const key = String(request.headers['idempotency-key'] ?? '');
    const known = texts.find((one) => key !== '' && one.key === key);
    if (known) return json(200, { id: known.id });
    const taken = { id: texts.length + 1, key, to, from: String(from ?? ''), text, at: new Date().toISOString() };
    texts.push(taken);
    json(202, { id: taken.id });
  }
  const server = createServer((request, response) => {
    handle(request, response).catch((error: Error) => send(response, 400, 'text/plain', error.message));
  });
  return { texts, server, refuse: (status) => (refusing = status) };
}

function page(texts: readonly Text[], q: string): string {
  const found = texts.filter((one) => `${one.to} ${one.text}`.toLowerCase().includes(q.toLowerCase()));
  const rows = [...found]
    .reverse()
    .map(
      (one) =>
        `<tr><td>${html(one.to)}</td><td>${html(one.text)}</td><td>${html(one.from)}</td><td>${html(one.at.slice(0, 19).replace('T', ' '))}</td></tr>`,
    )
    .join('');
  return frame(
    'Text messages',
    `<h1>Text messages of the demo</h1><p>Every text message that Lee Shore sends arrives here and goes no further.</p>
<form><label>Find <input name="q" value="${html(q)}"></label></form>
${found.length === 0 ? '<p>No text message yet.</p>' : `<table><tr><th>To</th><th>Text</th><th>From</th><th>Arrived (UTC)</th></tr>${rows}</table>`}`,
  );
}
