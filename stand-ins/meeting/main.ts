/** The video-meeting stand-in: a class comes and goes, sent as it happens and to be had as a file. */
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { bodyOf, frame, html, send } from '../page';
import { changedRows, recordAt, recordFile, type Plan, type StayRow } from './meeting';

const port = Number(process.env.MEETING_PORT ?? 4306);
const api = process.env.MEETING_API_URL ?? 'http://127.0.0.1:4300/api/v1';
const token = process.env.LEESHORE_API_TOKEN ?? '';
const plan: Plan = JSON.parse(readFileSync(process.env.MEETING_FILE ?? 'meeting.json', 'utf8'));
const frozen = process.env.LEESHORE_NOW ? Date.parse(process.env.LEESHORE_NOW) : null;
const EVERY = Number(process.env.MEETING_EVERY_MS ?? 2000);

let isPaused = process.env.MEETING_PAUSED === '1';
/** How far the meeting has been put forward by hand, in ms. */
let forward = 0;
let sent: StayRow[] = [];
let trouble: string | null = null;
let isSending = false;

function now(): number {
  return (frozen ?? Date.now()) + forward;
}

/** Sends what has changed; what did not arrive is sent again the next time, and changes nothing twice. */
async function step(): Promise<void> {
  if (isPaused || isSending) return;
  isSending = true;
  try {
    const record = recordAt(plan, now());
    const rows = changedRows(sent, record);
    if (rows.length === 0) return;
    const answer = await fetch(`${api}/sessions/${encodeURIComponent(plan.session)}/presence`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
      body: JSON.stringify(
        rows.map(({ left, email, ...row }) => ({ ...row, ...(email && { email }), ...(left && { left }) })),
      ),
      signal: AbortSignal.timeout(10_000),
    });
    if (!answer.ok) throw new Error(`${answer.status} ${(await answer.text()).slice(0, 200)}`);
    sent = record;
    trouble = null;
  } catch (error) {
    trouble = error instanceof Error ? error.message : String(error);
  } finally {
    isSending = false;
  }
}
setInterval(() => void step(), EVERY);

const ACTIONS: Record<string, () => void> = {
  pause: () => (isPaused = true),
  resume: () => (isPaused = false),
  minute: () => (forward += 60_000),
  ten: () => (forward += 10 * 60_000),
};

function page(): string {
  const record = recordAt(plan, now());
  const inside = record.filter(({ left }) => left === null);
  const button = (deed: string, title: string) => `<button name="deed" value="${deed}">${html(title)}</button> `;
  return frame(
    'Meeting',
    `<h1>${html(plan.title)}</h1>
<p>The video meeting of ${html(plan.session)}. Who comes and goes is sent to Lee Shore as it happens.</p>
<p><strong>${isPaused ? 'Paused' : 'On'}</strong> · ${inside.length} in, ${record.length} stays so far${trouble ? ` · last trouble: ${html(trouble)}` : ''}</p>
<form method="post">${button(isPaused ? 'resume' : 'pause', isPaused ? 'Go on' : 'Pause')}${button('minute', 'A minute on')}${button('ten', 'Ten minutes on')}</form>
<p><a href="/record.csv">The record as a file</a></p>
<ul>${inside.map(({ person }) => `<li>${html(person)}</li>`).join('')}</ul>`,
  );
}

createServer((request, response) => {
  const answer = async () => {
    if (request.method === 'POST') {
      const deed = new URLSearchParams(await bodyOf(request)).get('deed') ?? '';
      if (Object.hasOwn(ACTIONS, deed)) ACTIONS[deed]();
      response.writeHead(303, { location: '/' });
      return response.end();
    }
    if (request.url === '/record.csv') return send(response, 200, 'text/csv', recordFile(recordAt(plan, now())));
    send(response, 200, 'text/html', page());
  };
  answer().catch((error: Error) => send(response, 400, 'text/plain', error.message));
}).listen(port, '127.0.0.1', () => console.log(`Meeting stand-in on http://127.0.0.1:${port}`));
