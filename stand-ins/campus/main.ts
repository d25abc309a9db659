/** The course-platform stand-in: people at work, sent as statements as it happens, with a page to steer it. */
import { readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { seeded } from '../../demo/random';
import { bodyOf, frame, html, send } from '../page';
import { Platform, type Campus } from './platform';
import { Sender, type Target } from './sender';

const port = Number(process.env.CAMPUS_PORT ?? 4305);
const endpoint = process.env.CAMPUS_XAPI_URL ?? 'http://127.0.0.1:4300/xapi';
const campuses: (Campus & Omit<Target, 'endpoint'>)[] = JSON.parse(
  readFileSync(process.env.CAMPUS_FILE ?? 'campus.json', 'utf8'),
);
/** Each campus has a platform of its own, which sends under a credential of its own. */
const platforms = campuses.map(({ key, secret, ...campus }, index) => ({
  platform: new Platform(campus, seeded((Date.now() + index) >>> 0)),
  sender: new Sender({ endpoint, key, secret }),
}));
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
  if (!isPaused) step(() => (Math.random() < 0.7 ? 1 : 0));
}, EVERY);

/** So many steps on each platform. */
function step(count: () => number): void {
  for (const { platform, sender } of platforms) void sender.send(platform.step(now(), count()));
}

/** The one whose film can be broken. */
const first = platforms[0].platform;

const ACTIONS: Record<string, () => void> = {
  pause: () => (isPaused = true),
  resume: () => (isPaused = false),
  burst: () => step(() => 20),
  jam: () => first.jam(first.jammed === null),
  ahead: () => (ahead = ahead === 0 ? 20 * 60_000 : 0),
};

function page(): string {
  const sum = (of: (sender: Sender) => number) => platforms.reduce((all, { sender }) => all + of(sender), 0);
  const trouble = platforms.map(({ sender }) => sender.trouble).find((one) => one !== null);
  const button = (deed: string, title: string) => `<button name="deed" value="${deed}">${html(title)}</button> `;
  return frame(
    'Campus',
    `<h1>The course platforms of the demo</h1>
<p>Learners of the demo work here, and every step goes to Lee Shore as a statement of the Experience API.</p>
<p><strong>${isPaused ? 'Paused' : 'At work'}</strong> · ${sum((one) => one.sent)} statements sent, ${sum((one) => one.queued)} waiting${trouble ? ` · last trouble: ${html(trouble)}` : ''}</p>
<form method="post">${button(isPaused ? 'resume' : 'pause', isPaused ? 'Go on' : 'Pause')}
${button('burst', 'Forty steps at once')}
${button('jam', first.jammed ? `Mend “${first.jammed}”` : 'Break a film, so that people stop at it')}
${button('ahead', ahead ? 'Set the clock right' : 'Set the clock 20 minutes ahead')}</form>`,
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
    send(response, 200, 'text/html', page());
  };
  answer().catch((error: Error) => send(response, 400, 'text/plain', error.message));
}).listen(port, '127.0.0.1', () => console.log(`Course-platform stand-in on http://127.0.0.1:${port}`));
