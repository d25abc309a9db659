import { randomUUID } from 'node:crypto';
import { createRequire } from 'node:module';
import type { Page } from '@playwright/test';
import { CAMPUS_PORT, NOW, PORT } from './ports';
import { expect, expectAccessible, signIn, test } from './help';

// The published client is built for require.
const { default: Client } = createRequire(`${process.cwd()}/`)('@xapi/xapi') as typeof import('@xapi/xapi');

/** A credential of a new source, made by a lead as one would. */
async function credentialOf(page: Page, source: string): Promise<{ key: string; secret: string }> {
  await page.goto('/set-up/sources');
  await page.getByRole('button', { name: 'Make a credential…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Make a credential' });
  await dialog.getByLabel('Source').fill(source);
  await dialog.getByRole('button', { name: 'Make', exact: true }).click();
  const codes = page
    .getByRole('status')
    .filter({ hasText: `For ${source}` })
    .locator('code');
  await expect(codes).toHaveCount(2);
  const [key, secret] = await codes.allTextContents();
  return { key, secret };
}

const opened = (mail: string, course: string, item: string, more = {}) => ({
  id: randomUUID(),
  actor: { objectType: 'Agent' as const, mbox: `mailto:${mail}` },
  verb: { id: 'https://campus.example/verbs/opened', display: { 'en-GB': 'opened' } },
  object: { objectType: 'Activity' as const, id: `https://campus.example/courses/${course}/${item}` },
  timestamp: NOW,
  ...more,
});

for (const version of ['1.0.3', '2.0.0'] as const) {
  test(`a published client of the Experience API speaks ${version} with it`, async ({ page }) => {
    await signIn(page, 'lead');
    const { key, secret } = await credentialOf(page, `client ${version}`);
    const endpoint = `http://127.0.0.1:${PORT}/xapi/`;
    const xapi = new Client({ endpoint, auth: Client.toBasicAuth(key, secret), version: version as never });
    const about = await xapi.getAbout();
    expect(about.data.version).toEqual(['1.0.3', '2.0.0']);
    const learners = await (await page.request.get('/api/v1/learners?course=HAT&limit=2')).json();
    const [mail] = learners.data.map((row: { email: string }) => row.email);
    const one = opened(mail, 'HAT', 'HAT-01-1');
    const sent = await xapi.sendStatement({ statement: one as never });
    expect(sent.data).toEqual([one.id]);
    const many = [opened(mail, 'HAT', 'HAT-01-1'), opened('nobody@learner.example', 'HAT', 'HAT-01-1')];
    expect((await xapi.sendStatements({ statements: many as never })).data).toHaveLength(2);
    const back = await xapi.getStatement({ statementId: one.id });
    expect(back.data).toMatchObject({ id: one.id, object: one.object, stored: expect.any(String) });
    const first = await xapi.getStatements({ limit: 2, ascending: true });
    expect((first.data as { statements: unknown[] }).statements).toHaveLength(2);
    const rest = await xapi.getMoreStatements({ more: (first.data as { more: string }).more });
    expect((rest.data as { statements: unknown[] }).statements).toHaveLength(1);
    const own = await xapi.getStatements({ agent: one.actor as never, verb: one.verb.id });
    expect((own.data as { statements: unknown[] }).statements).toHaveLength(2);
    await expect(
      xapi.sendStatement({ statement: { ...one, verb: { id: 'https://campus.example/verbs/closed' } } as never }),
    ).rejects.toMatchObject({ response: { status: 409 } });
    await expect(
      xapi.sendStatement({ statement: { ...one, id: randomUUID(), actor: {} } as never }),
    ).rejects.toMatchObject({ response: { status: 400 } });
    const voided = await xapi.voidStatement({ actor: one.actor as never, statementId: one.id });
    expect(voided.status).toBe(200);
    await expect(xapi.getStatement({ statementId: one.id })).rejects.toMatchObject({ response: { status: 404 } });
    expect((await xapi.getVoidedStatement({ voidedStatementId: one.id })).data).toMatchObject({ id: one.id });
    // The one about nobody waits, where a lead sees it.
    await page.reload();
    await expect(
      page.getByRole('row', { name: new RegExp(`client ${version}.*nobody@learner.example`) }),
    ).toBeVisible();
    await expectAccessible(page);
  });
}

test('right now: events arrive by themselves, the class list fills, a hidden tab rests and catches up', async ({
  page,
}) => {
  test.setTimeout(150_000);
  await signIn(page, 'lead');
  const { secret } = await credentialOf(page, 'live test');
  const send = async (...statements: object[]) => {
    const answer = await page.request.post('/xapi/statements', {
      headers: { authorization: `Bearer ${secret}`, 'x-experience-api-version': '2.0.0' },
      data: statements,
    });
    expect(answer.status()).toBe(200);
  };
  const people: { name: string; email: string; learner_id: string }[] = (
    await (await page.request.get('/api/v1/learners?course=TTU&limit=100')).json()
  ).data.filter((one: { email: string | null }) => one.email);
  const [a, b, c] = people;
  await page.goto('/courses/now');
  await page.getByText('Class list of').getByRole('link', { name: 'Tidal Turbine Upkeep' }).click();
  await expect(page).toHaveURL(/in=course/);
  await expect(page.getByText('Arriving by itself')).toBeVisible();
  await expectAccessible(page);
  const list = page.getByRole('region', { name: 'Class list' });
  const place = (one: { name: string }) => list.getByRole('listitem').filter({ hasText: one.name }).first();
  await expect(place(a)).toContainText('not yet seen');
  await send(opened(a.email, 'TTU', 'TTU-01-1'));
  await expect(place(a)).toContainText('in 09:10');
  const present = page.getByRole('region', { name: 'Who is in' });
  await expect(present.getByRole('link', { name: a.name })).toBeVisible();
  await expect(page.getByRole('region', { name: 'The last events' })).toContainText(`${a.name} opened`);

  // Hidden, the stream ends; shown again, what came meanwhile is there.
  const hide = (hidden: boolean) =>
    page.evaluate((is) => {
      Object.defineProperty(document, 'hidden', { configurable: true, get: () => is });
      document.dispatchEvent(new Event('visibilitychange'));
    }, hidden);
  await hide(true);
  await expect(page.getByText('Paused while this tab is hidden')).toBeVisible();
  await send(opened(b.email, 'TTU', 'TTU-01-1'));
  await page.waitForTimeout(1500);
  await expect(place(b)).toContainText('not yet seen');
  await hide(false);
  await expect(place(b)).toContainText('in 09:10');

  // A lost connection is told of, and caught up.
  await page.context().setOffline(true);
  await hide(true);
  await hide(false);
  await expect(page.getByText(/The connection was lost/)).toBeVisible();
  await page.context().setOffline(false);
  await send(opened(c.email, 'TTU', 'TTU-01-1'));
  await expect(place(c)).toContainText('in 09:10', { timeout: 20_000 });

  // So is an answer that is no stream, on which a browser gives up by itself.
  await page.route('**/courses/now/stream*', (route) => route.fulfill({ status: 204 }), { times: 1 });
  await hide(true);
  await hide(false);
  await expect(page.getByText(/The connection was lost/)).toBeVisible();
  await expect(page.getByText('Arriving by itself')).toBeVisible({ timeout: 15_000 });

  // Most stop at one item: it stands out.
  const earlier = (minutes: number) => new Date(Date.parse(NOW) - minutes * 60_000).toISOString();
  await send(...people.slice(3, 8).map((one) => opened(one.email, 'TTU', 'TTU-02-1', { timestamp: earlier(10) })));
  const items = page.getByRole('region', { name: 'Where people stop or come back' });
  await expect(items.getByText('most stop or come back here').first()).toBeVisible();

  // Somebody who sees another course alone gets nothing of this one.
  await page.getByRole('button', { name: 'Sign out' }).click();
  await signIn(page, 'instructor');
  await page.goto('/courses/now');
  await expect(page.getByText('Arriving by itself')).toBeVisible();
  await send(opened(a.email, 'TTU', 'TTU-01-2'));
  await page.waitForTimeout(1500);
  await expect(page.getByText(a.name)).toHaveCount(0);
});

test('the stand-in campus sends what its people do, and a lead sees its source', async ({ page }) => {
  await signIn(page, 'lead');
  const campus = `http://127.0.0.1:${CAMPUS_PORT}/`;
  await page.goto(campus);
  await page.getByRole('button', { name: 'Forty steps at once' }).click();
  // Asked for beside the page, which is on its way back from the button.
  const says = async () => (await (await page.request.get(campus)).text()).replace(/<[^>]+>/g, '');
  await expect.poll(says, { timeout: 45_000 }).toMatch(/[1-9]\d* statements sent, 0 waiting/);
  expect(await says()).not.toContain('last trouble');
  await page.goto('/set-up/sources');
  await expect(page.getByRole('group', { name: 'Sources' }).getByRole('row', { name: /campus north/ })).toContainText(
    'by itself',
  );
});

test('a gap in the feed is found, confirmed, named, and told of where figures are', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/sources');
  const found = page.getByRole('listitem').filter({ hasText: 'campus south sent nothing' }).first();
  await expect(found).toContainText('Wed 18 Nov, 07:00 to Wed 18 Nov, 22:00');
  await found.getByRole('button', { name: /^A gap/ }).click();
  await expect(found).toHaveCount(0);
  const settled = page.getByRole('group', { name: 'Settled gaps' });
  await expect(settled.getByRole('row', { name: /campus south.*a gap/ })).toBeVisible();
  await page.goto('/courses/item-use?course=TTU');
  await expect(page.getByText('Log incomplete Wed 18 Nov')).toBeVisible();

  await page.goto('/set-up/sources');
  await page.getByRole('button', { name: 'Name a gap…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Name a gap' });
  await dialog.getByLabel('Source').selectOption('campus south');
  await dialog.getByLabel('From, day').fill('12/10/2026');
  await dialog.getByLabel('From, time').fill('10');
  await dialog.getByLabel('To, day').fill('12 Oct');
  await dialog.getByLabel('To, time').fill('9.00');
  await dialog.getByRole('button', { name: 'Name', exact: true }).click();
  await expect(dialog.getByText('does not lie after from')).toBeVisible();
  await dialog.getByLabel('To, time').fill('3 pm');
  await dialog.getByLabel('Reason').fill('the platform was moved');
  await dialog.getByRole('button', { name: 'Name', exact: true }).click();
  await expect(dialog).toBeHidden();
  const named = settled.getByRole('row', { name: /the platform was moved/ });
  await expect(named).toContainText('a gap');
  await named.getByRole('button', { name: /^No gap/ }).click();
  await expect(named).toContainText('no gap');
  await settled
    .getByRole('row', { name: /campus south.*Wed 18 Nov/ })
    .getByRole('button', { name: /^No gap/ })
    .click();
  await expect(settled.getByRole('row', { name: /campus south.*Wed 18 Nov/ })).toContainText('no gap');
});
