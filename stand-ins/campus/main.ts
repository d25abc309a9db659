/** The course-platform stand-in: people at work, sent as statements as it happens, with a page to steer it. */
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { seeded } from '../../demo/random';
import { bodyOf, frame, html, send } from '../page';
import { Platform, type Campus } from './platform';
import { Sender, type Target } from './sender';

const port = Number(process.env.CAMPUS_PORT ?? 4305);
const { key, secret, ...campus }: Campus & Omit<Target, 'endpoint'> = JSON.parse(
  readFileSync(process.env.CAMPUS_FILE ?? 'campus.json', 'utf8'),
);
const sender = new Sender({ endpoint: process.env.CAMPUS_XAPI_URL ?? 'http://127.0.0.1:4300/xapi', key, secret });
const platform = new Platform(campus, seeded(Date.now() >>> 0));
/** The clock of the application, where that is frozen. */
const frozen = process.env.LEESHORE_NOW ? Date.parse(process.env.LEESHORE_NOW) : null;
const began = Date.now();
const EVERY = Number(process.env.CAMPUS_EVERY_MS ?? 2500);

let isPaused = process.env.CAMPUS_PAUSED === '1';
let ahead = 0;

function now(): number {
  // A frozen application lets events be a few minutes ahead of it.
  return (frozen === null ? Date.now() : frozen + Math.min(Date.now() - began, 4 * 60_000)) + ahead;
}

setInterval(() => {
  if (!isPaused) void sender.send(platform.step(now(), 1 + (Math.random() < 0.4 ? 1 : 0)));
}, EVERY);

const DEEDS: Record<string, () => void> = {
  pause: () => (isPaused = true),
  resume: () => (isPaused = false),
  burst: () => void sender.send(platform.step(now(), 40)),
  jam: () => platform.jam(platform.jammed === null),
  ahead: () => (ahead = ahead === 0 ? 20 * 60_000 : 0),
};

function page(): string {
  const button = (deed: string, title: string) => `<button name="deed" value="${deed}">${html(title)}</button> `;
  return frame(
    'Campus',
    `<h1>A course platform of the demo</h1>
<p>Learners of the demo work here, and every step goes to Lee Shore as a statement of the Experience API.</p>
<p><strong>${isPaused ? 'Paused' : 'At work'}</strong> · ${sender.sent} statements sent, ${sender.queued} waiting${sender.trouble ? ` · last trouble: ${html(sender.trouble)}` : ''}</p>
<form method="post">${button(isPaused ? 'resume' : 'pause', isPaused ? 'Go on' : 'Pause')}
${button('burst', 'Forty steps at once')}
${button('jam', platform.jammed ? `Mend “${platform.jammed}”` : 'Break a film, so that people stop at it')}
${button('ahead', ahead ? 'Set the clock right' : 'Set the clock 20 minutes ahead')}</form>`,
  );
}

createServer((request, response) => {
  const answer = async () => {
    if (request.method === 'POST') {
      const deed = new URLSearchParams(await bodyOf(request)).get('deed') ?? '';
      if (Object.hasOwn(DEEDS, deed)) DEEDS[deed]();
      response.writeHead(303, { location: '/' });
      return response.end();
    }
    send(response, 200, 'text/html', page());
  };
  answer().catch((error: Error) => send(response, 400, 'text/plain', error.message));
}).listen(port, '127.0.0.1', () => console.log(`Course-platform stand-in on http://127.0.0.1:${port}`));
