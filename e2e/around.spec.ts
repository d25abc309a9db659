import { expect, expectAccessible, signIn, test } from './help';

test('a flare calls everybody around a learner, is seen, and ends', async ({ page }) => {
  await signIn(page, 'lead');
  const { data } = (await (await page.request.get('/api/v1/learners?course=HAT&limit=5')).json()) as {
    data: { learner_id: string; name: string }[];
  };
  const { learner_id: learner, name } = data[0];
  const reason = `Nobody has heard of them ${Date.now()}`;
  await page.goto(`/learners/${learner}`);
  await page.getByRole('button', { name: 'Raise a flare…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Reason').fill(reason);
  await dialog.getByRole('button', { name: 'Raise the flare' }).click();
  await expect(dialog).toBeHidden();
  await expect(page.locator('#story')).toContainText(reason);

  await page.context().clearCookies();
  await signIn(page, 'instructor');
  await page
    .getByRole('navigation', { name: 'Main' })
    .getByRole('link', { name: /Flares/ })
    .click();
  const row = page.getByRole('row', { name: new RegExp(reason) });
  await expect(row).toContainText('Jory Kestle');
  await expectAccessible(page);
  await row.getByRole('button', { name: `Seen: the flare for ${name}` }).click();
  await expect(row.getByRole('button', { name: /^Seen/ })).toBeHidden();
  await row.getByRole('button', { name: 'End…' }).click();
  await dialog.getByLabel('What came of it').fill('Called: all is well.');
  await dialog.getByRole('button', { name: 'End the flare' }).click();
  await expect(row).toBeHidden();
  await page.getByRole('link', { name: 'ended', exact: true }).click();
  await expect(row).toContainText('Called: all is well.');
});

test('posts are found by their words, and whoever never wrote is a press away', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/courses/posts?in=course:HAT');
  await page.getByRole('textbox', { name: 'Find in posts' }).fill('FOREMAN');
  await expect(page.getByRole('table').getByRole('row').nth(1)).toContainText('My foreman says');
  await page.getByRole('link', { name: 'Who wrote, and who never did' }).click();
  await page.getByRole('link', { name: /never wrote$/ }).click();
  await expect(page.getByText('Never wrote', { exact: true })).toBeVisible();
});

test('a page for whoever has no account has its own policy, and its style', async ({ page }) => {
  const answer = await page.request.get('/certificate/2222-2222-2222');
  expect(answer.status()).toBe(404);
  expect(answer.headers()['content-security-policy']).toContain("default-src 'none'");
  expect(await answer.text()).toContain('No such number was given');
});

test('several are praised at once, each for what they did, and the crew is written to', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/watch/good-news');
  const rows = page.getByRole('table').getByRole('checkbox');
  await rows.nth(0).check();
  await rows.nth(1).check();
  await expectAccessible(page);
  await page.getByRole('button', { name: /^Praise \d learners?$/ }).click();
  await page.waitForURL('**/write/**');
  await page.getByLabel('Template').selectOption({ label: 'Well done' });
  await expect(page.getByRole('region', { name: 'Preview' })).not.toContainText('{{');

  await page.goto('/watch/good-news');
  await page.getByRole('table').getByRole('link').first().click();
  await page.getByRole('button', { name: 'Write to the crew…' }).click();
  await page.waitForURL('**/write/**');
  await page.getByLabel('Subject').fill('About {{name}}');
  await page.getByRole('textbox', { name: 'Text' }).fill('Dear {{receiver}}, who knows more?');
  await expect(page.getByRole('region', { name: 'Preview' })).toContainText('Dear ');
  await expect(page.getByRole('region', { name: 'Preview' })).toContainText('(instructor)');
  await expectAccessible(page);
});

test('an erasure is asked for and taken back, a wish is noted, and who looked stands in a list', async ({ page }) => {
  await signIn(page, 'lead');
  const { data } = (await (await page.request.get('/api/v1/learners?course=DRY&limit=9')).json()) as {
    data: { learner_id: string; name: string }[];
  };
  const { learner_id: learner, name } = data[8];
  await page.goto(`/learners/${learner}`);
  const dialog = page.getByRole('dialog');
  await page.getByRole('button', { name: 'Erase…' }).click();
  await dialog.getByRole('textbox').fill('They asked for it.');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Erase in 14 days' }).click();
  const notice = page.getByRole('status').filter({ hasText: 'They will be erased on' });
  await expect(notice).toBeVisible();
  await notice.getByRole('button', { name: 'Take it back' }).click();
  await expect(notice).toBeHidden();

  await page.getByRole('button', { name: 'What they wish…' }).click();
  await dialog.getByText('not by text message').click();
  await dialog.getByRole('button', { name: 'Note it' }).click();
  await expect(page.getByText('not by text message (Hesper Vane')).toBeVisible();

  await page.getByRole('link', { name: `Who looked at ${name}` }).click();
  await expect(page.getByRole('row', { name: new RegExp(`Hesper Vane.*${name}.*their page`) }).first()).toBeVisible();
  await page.getByRole('link', { name: 'Erasures' }).click();
  await expect(page.getByRole('row', { name: new RegExp(`${name}.*taken back`) })).toBeVisible();
});
