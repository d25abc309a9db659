import type { Page } from '@playwright/test';
import { expect, signIn, test } from './help';

/** Screens with counts that open what they count. */
const SCREENS = [
  '/watch',
  '/watch?as_of=2026-11-10',
  '/watch?in=course:HAT',
  '/watch?part=contacted',
  '/watch?part=away',
  '/watch?part=never',
  '/courses',
  '/courses?in=organisation:Norrick%20Shellfish%20Co-op',
  '/courses/item-use?course=HAT',
  '/courses/item-use?course=NET&weeks=2',
  '/courses/item-use?course=HAT&table=yes&by=group',
  '/courses/now?in=course:HAT',
  '/sessions',
  '/follow-ups',
  '/follow-ups/messages',
];

/** What a page says it shows, by its path. */
const SAYS: Record<string, RegExp> = {
  '/watch': /([\d,]+) of [\d,]+ (?:· clear )?· set aside/,
  '/learners': /([\d,]+) of [\d,]+/,
  '/access-log': /([\d,]+) events?/,
  '/courses/work-due': /([\d,]+) assignments?/,
  '/courses/to-grade': /([\d,]+) assignments?/,
  '/courses/item-use': /([\d,]+) items? (?:was|were) opened by nobody/,
  '/sessions/list': /([\d,]+) sessions?/,
  '/follow-ups': /([\d,]+) of [\d,]+ open/,
  '/follow-ups/messages': /([\d,]+) messages?/,
};

/** Links that begin with a number, or end with one as "rolls of 2 sessions" does, and count nothing. */
const NO_COUNT = /^\+44|^\d+ weeks?$|^\d{1,2}:\d\d|^Week \d+|^(Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d+|^(Next|Previous) \d+/;
/** Of links that look alike, how many are pressed. */
const OF_EACH = 6;

interface Count {
  says: string;
  href: string;
}

/** The links of a page whose text holds a number; the rail's stand beside the name of a whole screen. */
async function countsOn(page: Page): Promise<Count[]> {
  const links = await page.evaluate(() =>
    [...document.querySelectorAll<HTMLAnchorElement>('a[href^="/"]')]
      .filter((link) => link.closest('nav[aria-label^="Main"]') === null)
      .map((link) => ({
        says: (link.getAttribute('aria-label') ?? link.textContent).trim(),
        href: link.getAttribute('href')!,
      })),
  );
  return links.filter(({ says }) => /\d/.test(says) && !NO_COUNT.test(says));
}

/** A link's shape: what differs between the rows of a table is left out. */
function shapeOf({ says, href }: Count): string {
  const url = new URL(href, 'http://here');
  const asked = [...url.searchParams].map(([name, value]) => (/^(band|part|state|sort)$/.test(name) ? value : name));
  return [says.replace(/[\d,]+/g, '#'), url.pathname, ...asked].join(' ');
}

async function saidBy(page: Page, href: string): Promise<number | null> {
  const answer = await page.request.get(href);
  expect([href, answer.status()]).toEqual([href, 200]);
  const text = (await answer.text())
    .replace(/<(script|style)[^>]*>[^]*?<\/\1>/g, '')
    .replace(/<!--[^]*?-->/g, '')
    .replace(/<[^>]+>/g, ' ')
    .replace(/\s+/g, ' ');
  const found = SAYS[new URL(href, 'http://here').pathname]?.exec(text);
  return found ? Number(found[1].replaceAll(',', '')) : null;
}

test('every count on every screen opens exactly what it counts', async ({ page }) => {
  test.setTimeout(300_000);
  await signIn(page, 'lead');
  const pressed: Record<string, number> = {};
  for (const screen of SCREENS) {
    await page.goto(screen);
    const shapes = new Map<string, number>();
    for (const count of await countsOn(page)) {
      const shape = shapeOf(count);
      const seen = (shapes.get(shape) ?? 0) + 1;
      shapes.set(shape, seen);
      if (seen > OF_EACH) continue;
      const wanted = Number(/\d[\d,]*/.exec(count.says)![0].replaceAll(',', ''));
      const found = await saidBy(page, count.href);
      expect.soft([screen, count.says, count.href, found]).toEqual([screen, count.says, count.href, wanted]);
      const path = new URL(count.href, 'http://here').pathname;
      pressed[path] = (pressed[path] ?? 0) + 1;
    }
  }
  expect(Object.keys(pressed).sort()).toEqual(Object.keys(SAYS).sort());
});

test('the counts of the rail are those that their screens give', async ({ page }) => {
  await signIn(page, 'lead');
  const rail = page.getByRole('navigation', { name: 'Main' });
  const beside = async (name: string) =>
    Number((await rail.getByRole('link', { name }).textContent())!.replace(/\D/g, '') || 0);
  // Beside the follow-ups stand the answers that nobody has read.
  const counted = rail.getByRole('link', { name: 'Follow-ups' }).getByTitle(/./);
  const title = (await counted.count()) > 0 ? await counted.getAttribute('title') : '';
  const due = Number(/(\d+) follow-ups?/.exec(title ?? '')?.[1] ?? 0);
  const rolls = await beside('Sessions');
  await page.goto('/follow-ups');
  const of = async (state: string) =>
    Number(/\d+/.exec((await page.getByRole('link', { name: new RegExp(`^\\d+ ${state}$`) }).textContent())!)![0]);
  // Whoever came back stands first, whenever it was due.
  const least = (await of('overdue')) + (await of('due today'));
  expect(due).toBeGreaterThanOrEqual(least);
  expect(due).toBeLessThanOrEqual(least + (await of('came back')));
  await page.goto('/sessions');
  const says = /rolls? of (\d+) sessions?/.exec(await page.locator('body').innerText());
  expect(rolls).toBe(Number(says?.[1] ?? 0));
});
