/**
 * How soon the Watch answers a press after its first paint, on a processor four times slower than this one (by Chromium, as a
 * telephone's is): the second person is pressed again and again from the first paint on, until the list has gone to them.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser } from '@playwright/test';
import config from '../playwright.config';
import { SESSION_COOKIE } from '@/server/staff/accounts';
import { serving, signedIn } from './engine';
import { institution } from './institution';
import { percentile, report } from './measure';

const PORT = 4393;
const TIMES = 9;
const SLOWER = 4;
/** Ms that nobody feels as waiting. */
const AT_ONCE = 100;

/** Runs in the page before anything of it. */
function pressFromFirstPaint(): void {
  const told = window as unknown as { answeredAfter?: number };
  new PerformanceObserver((list, observer) => {
    const paint = list.getEntriesByName('first-contentful-paint')[0];
    if (!paint) return;
    observer.disconnect();
    const press = setInterval(() => {
      const row = document.querySelectorAll<HTMLElement>('main li[tabindex]')[1];
      row?.click();
      if (!row?.hasAttribute('data-current')) return;
      clearInterval(press);
      told.answeredAfter = performance.now() - paint.startTime;
    }, 5);
  }).observe({ type: 'paint', buffered: true });
}

/** Ms from the first paint to the answer. */
async function openWatch(browser: Browser, session: string): Promise<number> {
  const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
  await context.addCookies([{ name: SESSION_COOKIE, value: session, url: `http://127.0.0.1:${PORT}` }]);
  const page = await context.newPage();
  const devTools = await context.newCDPSession(page);
  await devTools.send('Emulation.setCPUThrottlingRate', { rate: SLOWER });
  await page.addInitScript(pressFromFirstPaint);
  await page.goto(`http://127.0.0.1:${PORT}/watch`);
  const answered = await page.waitForFunction(() => (window as { answeredAfter?: number }).answeredAfter);
  const ms = (await answered.jsonValue()) as number;
  await context.close();
  return ms;
}

export async function benchPress(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-press-'));
  const browser = await chromium.launch(config.use?.launchOptions);
  try {
    await (await institution(dir, { learners: 2000, courses: 2, coursesEach: 2, rows: 100_000 })).runtime.db.destroy();
    const session = await signedIn(join(dir, 'data'), 'C0');
    await serving(
      join(dir, 'data'),
      async () => {
        await openWatch(browser, session);
        const all: number[] = [];
        for (let i = 0; i < TIMES; i += 1) all.push(await openWatch(browser, session));
        const ms = percentile(all, 0.5);
        report('A press on the Watch after its first paint, to its answer', ms / AT_ONCE, 1, `${ms.toFixed(0)} ms`);
      },
      PORT,
    );
  } finally {
    await browser.close();
    rmSync(dir, { recursive: true, force: true });
  }
}
