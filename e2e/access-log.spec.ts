import { readFileSync } from 'node:fs';
import { TOKEN } from './ports';
import { expect, expectAccessible, signIn, test } from './help';

const events = (text: string) => Number(text.replace(/[^\d]/g, ''));

test('the access log: folded into visits, narrowed by sentences, by the picture of days, and exported as it is', async ({
  page,
}) => {
  test.setTimeout(150_000);
  await signIn(page, 'instructor');
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Access log' }).click();
  const total = page.getByText(/^(about )?[\d,]+ events?$/).first();
  const rows = page.getByRole('group', { name: 'Events' }).locator('tbody tr');
  await expect(total).toBeVisible();
  const everything = events((await total.textContent())!);
  await expectAccessible(page);

  // A run opens to its events.
  const run = page.getByRole('button', { name: /\d\d:\d\d–\d\d:\d\d/ }).first();
  await expect(run).toHaveAttribute('aria-expanded', 'false');
  const before = await rows.count();
  await run.click();
  await expect(run).toHaveAttribute('aria-expanded', 'true');
  expect(await rows.count()).toBeGreaterThan(before);
  await page.getByRole('link', { name: 'Show every event' }).click();
  await expect(run).toHaveCount(0);

  // More come as one scrolls.
  await expect(async () => {
    await page.mouse.wheel(0, 3000);
    expect(Number(await rows.last().getAttribute('data-index'))).toBeGreaterThan(300);
  }).toPass();
  // Those far above and below what is in sight are not drawn.
  expect(await rows.count()).toBeLessThan(100);
  await page.evaluate(() => window.scrollTo(0, 0));

  // Filters are sentences, in the link.
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByLabel('Kind', { exact: true }).selectOption('talked');
  await expect(page).toHaveURL(/kind=talked/);
  await expect(page.getByText('Kind talked')).toBeVisible();
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByRole('combobox', { name: 'Learner or item' }).fill('kettle');
  await page
    .getByRole('option', { name: /Oriel Kettle/ })
    .first()
    .click();
  await expect(page).toHaveURL(/learner=L\d+/);
  await expect(page.getByRole('link', { name: 'Oriel Kettle’s page' })).toBeVisible();
  const narrowed = events((await total.textContent())!);
  expect(narrowed).toBeLessThan(everything);
  await page.getByRole('button', { name: 'Clear: Kind talked' }).click();
  await expect(page).not.toHaveURL(/kind=/);
  await page
    .getByRole('link', { name: 'clear all' })
    .or(page.getByRole('button', { name: /^Clear: Oriel/ }))
    .first()
    .click();
  await expect(page).not.toHaveURL(/learner=/);

  // The picture of days chooses a period: by drawing over it, and by keys.
  const picture = page.getByRole('slider', { name: /Events by day/ });
  const box = (await picture.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + 20, { steps: 4 });
  await page.mouse.up();
  await expect(page).toHaveURL(/from=2026-\d\d-\d\d&to=2026-\d\d-\d\d/);
  const drawn = events((await total.textContent())!);
  expect(drawn).toBeGreaterThan(0);
  expect(drawn).toBeLessThan(everything);
  await picture.focus();
  await picture.press('ArrowRight');
  await picture.press('Shift+ArrowRight');
  await picture.press('Enter');
  await expect.poll(() => new URL(page.url()).searchParams.get('from')).not.toBeNull();

  // See it first, then export exactly that.
  await page.goto('/access-log?course=SBE&kind=talked&from=2026-11-09&to=2026-11-16');
  await expect(page.getByText('Mon 9 Nov to Sun 15 Nov')).toBeVisible();
  const shown = events((await total.textContent())!);
  for (const [format, lines] of [
    ['CSV', shown + 1],
    ['JSON lines', shown],
  ] as const) {
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Export' }).click();
    await page.getByRole('menuitem', { name: format }).click();
    const text = readFileSync(await (await download).path(), 'utf8').trim();
    expect(text.split(/\r?\n/)).toHaveLength(lines);
    await expect(
      page
        .getByRole('alert')
        .filter({ hasText: `${shown.toLocaleString('en-GB')} events` })
        .last(),
    ).toBeVisible();
  }

  // Jump to a date without narrowing, and turn round there.
  await page.goto('/access-log?course=SBE');
  await page.getByLabel('Jump to').fill('20 Oct');
  await page.getByLabel('Jump to').press('Enter');
  await expect(page).toHaveURL(/jump=2026-10-20/);
  await expect(rows.first()).toContainText('Tue 20 Oct');
  await page.getByRole('link', { name: 'Newer events' }).click();
  await expect(rows.first()).not.toContainText('Tue 20 Oct');
});

test('learners, items, courses and days elsewhere open the log narrowed to them; a bad link says what is wrong', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'mentor');
  await page.goto('/learners/L20531');
  const name = (await page.getByRole('heading', { level: 1 }).textContent())!;
  await page.getByRole('link', { name: 'Their access log' }).click();
  await expect(page).toHaveURL(/access-log\?learner=L20531/);
  await expect(page.getByText(name, { exact: true }).first()).toBeVisible();
  await page
    .getByRole('link', { name: /^(Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d/ })
    .first()
    .click();
  await expect(page).toHaveURL(/learner=L20531.*from=/);

  for (const [query, says] of [
    ['from=2026-11-10&to=2026-11-09', 'to does not lie after from'],
    ['kind=dreamt', 'kind is not one of'],
    ['learner=NOBODY', 'No such learner'],
    ['course=HAT&item=GONE', 'No such item'],
    ['from=2026-02-30', 'from is not a time'],
  ]) {
    await page.goto(`/access-log?${query}`);
    await expect(page.getByRole('alert').filter({ hasText: 'asks for something' })).toContainText(says);
  }
  await page.getByRole('link', { name: 'show everything' }).click();
  await expect(page.getByRole('group', { name: 'Events' })).toBeVisible();
  await page.goto('/access-log?course=HAT&action=submitted&from=2026-09-01&to=2026-09-02');
  await expect(page.getByText('No event matches.')).toBeVisible();
});

test('everything of one learner: by visit and week, for a period, with when they study', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/learners/L20531');
  await page.getByRole('link', { name: 'Everything they did, by visit and week' }).click();
  await expect(page.getByRole('heading', { name: /^Everything .* did$/ })).toBeVisible();
  await expect(page.getByText('Log incomplete Wed 4 Nov to Thu 5 Nov')).toBeVisible();
  await expect(page.getByRole('img', { name: /^Most time: / })).toBeVisible();
  await expect(page.getByText(/% of the time lies in working hours \(Mon to Fri, 08:00 to 17:00/)).toBeVisible();
  const whole = await page.getByRole('heading', { name: /^Week of/ }).count();
  expect(whole).toBeGreaterThan(3);
  await expectAccessible(page);
  const weeks = page.getByRole('group', { name: 'Totals by week' });
  await expect(weeks.getByRole('row', { name: /^Mon 2 Nov .*log incomplete/ })).toBeVisible();
  await weeks.getByRole('link', { name: 'Mon 9 Nov' }).click();
  await expect(page.getByRole('heading', { name: /^Week of Mon 9 Nov/ })).toBeInViewport();
  await page.getByLabel('From').fill('2026-11-09');
  await page.getByLabel('To', { exact: true }).fill('2026-11-15');
  await page.getByRole('button', { name: 'Show' }).click();
  await expect(page).toHaveURL(/from=2026-11-09&to=2026-11-15/);
  await expect(page.getByRole('heading', { name: /^Week of Mon 9 Nov/ })).toBeVisible();
  await expect(page.getByRole('heading', { name: /^Week of/ })).toHaveCount(1);
  // The API's visits of the same days are as many.
  const headers = { authorization: `Bearer ${TOKEN}` };
  const visits = await (
    await page.request.get('/api/v1/visits?learner=L20531&from=2026-11-09&to=2026-11-16', { headers })
  ).json();
  await expect(page.getByText(`${visits.total} visits,`)).toBeVisible();
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('button', { name: 'Print' })).toBeHidden();
  await expect(page.getByRole('heading', { name: /^Week of Mon 9 Nov/ })).toBeVisible();
});
