import { expect, expectAccessible, signIn, test } from './help';

test('a lead sees what would go by other days before they are set, and takes them back', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/how-long');
  const messages = page.getByRole('textbox', { name: 'Messages: days' });
  await messages.fill('soon');
  await page.getByRole('button', { name: 'See what would go' }).click();
  await expect(page.getByText('is neither a whole number')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Set these days' })).toBeHidden();
  await messages.fill('for ever');
  await page.getByRole('textbox', { name: 'Access log: days' }).fill('200');
  await page.getByRole('button', { name: 'See what would go' }).click();
  await expect(page.getByRole('heading', { name: 'What would go by these days' })).toBeVisible();
  const going = page.getByRole('table').nth(1);
  // A course of last year is over for longer than that.
  await expect(going.getByRole('row', { name: /at once Access log .*DRY25/ })).toBeVisible();
  await expect(going.getByRole('row', { name: /Messages/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Set these days' }).click();
  await expect(page.getByText('messages for ever')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByText('Nothing goes yet')).toBeVisible();
});

test('a finished course is archived, and its log opens as before and says so', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/access-log?in=course:SBE25&fold=no');
  const count = await page.getByText(/^[\d,]+ events$/).textContent();
  const newest = await page.getByRole('table').getByRole('row').nth(2).textContent();
  await page.goto('/set-up/how-long');
  await page.getByRole('button', { name: 'Archive a course…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Course that has ended').selectOption({ value: 'SBE25' });
  await dialog.getByRole('button', { name: 'Archive', exact: true }).click();
  await expect(dialog).toBeHidden();
  const row = page
    .getByRole('table', { name: 'Archives' })
    .or(page.locator('#archives'))
    .getByRole('row', { name: /SBE25/ });
  await expect(row).toContainText('archived', { timeout: 60_000 });
  await expectAccessible(page);
  await page.goto('/access-log?in=course:SBE25&fold=no');
  await expect(page.getByText('Some of these events are in an archive')).toBeVisible();
  await expect(page.getByText(/^[\d,]+ events$/)).toHaveText(count!);
  await expect(page.getByRole('table').getByRole('row').nth(2)).toHaveText(newest!);
});
