import { readFileSync } from 'node:fs';
import { expect, expectAccessible, signIn, test } from './help';

test('search as one types, filters as sentences, sort, pages, and the same rows as a file', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Learners' }).click();
  const count = page.getByText(/^\d+ of \d+$/);
  const rows = page.getByRole('group', { name: 'Learners' }).locator('tbody tr');
  await expect(rows).toHaveCount(25);
  await expectAccessible(page);

  await page.keyboard.press('/');
  await page.keyboard.type('kettle');
  await expect(page).toHaveURL(/q=kettle/);
  await expect(rows.filter({ hasText: 'Oriel Kettle' })).toHaveCount(2);
  for (const text of await rows.allTextContents()) expect(text.toLowerCase()).toContain('kettle');
  await page.getByLabel(/^Find by/).fill('');
  await expect(page).toHaveURL(/\/learners$/);

  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByRole('menuitem', { name: 'Quiet 7 days or more' }).click();
  await expect(page.getByText('Quiet 7 days or more')).toBeVisible();
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByRole('menuitem', { name: 'Not contacted for 14 days' }).click();
  await expect(page).toHaveURL(/quiet=7&not_contacted=14/);
  const heading = page.getByRole('columnheader', { name: 'Days quiet' });
  await heading.getByRole('link').click();
  await expect(heading).toHaveAttribute('aria-sort', 'ascending');
  await heading.getByRole('link').click();
  await expect(heading).toHaveAttribute('aria-sort', 'descending');
  await expect(rows.first()).toContainText('never');
  const [shown] = (await count.textContent())!.split(' of ').map(Number);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  const csv = readFileSync(await (await download).path(), 'utf8')
    .trim()
    .split('\r\n');
  expect(csv).toHaveLength(shown + 1);

  await page.getByRole('link', { name: 'Call sheet' }).click();
  await expect(page.getByRole('heading', { name: /^Call sheet/ })).toBeVisible();
  await expect(page.locator('tbody tr')).toHaveCount(shown);
  await expectAccessible(page);
  await page.getByRole('link', { name: 'Back to the list' }).click();
  await page.getByRole('button', { name: 'Clear: Quiet 7 days or more' }).click();
  await expect(page).not.toHaveURL(/quiet=7/);

  await page.goto('/learners?limit=10&page=2');
  await expect(page.getByText(/^11 to 20 of/)).toBeVisible();
  await page.goto('/learners?quiet=soon');
  await expect(page.getByRole('alert').filter({ hasText: 'quiet is not a number of days' })).toBeVisible();
});
