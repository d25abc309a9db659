import { expect, test } from '@playwright/test';
import { expectAccessible, signIn } from './help';

test('days are typed in several ways, picked from a calendar by keys, and said in our words', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.getByRole('button', { name: 'Log a call' }).first().click();
  const dialog = page.getByRole('dialog', { name: /^Call to/ });
  const day = dialog.getByLabel('Follow up on');
  await expect(day).toHaveValue('Fri 27 Nov');
  for (const [typed, said] of [
    ['tomorrow', 'Wed 25 Nov'],
    ['mon', 'Mon 30 Nov'],
    ['3/12', 'Thu 3 Dec'],
    ['in 2 weeks', 'Tue 8 Dec'],
    ['2027-01-04', 'Mon 4 Jan 2027'],
  ]) {
    await day.fill(typed);
    await day.press('Tab');
    await expect(day).toHaveValue(said);
  }
  await day.fill('some day');
  await day.press('Tab');
  await expect(dialog.getByText('is no day: write it as')).toBeVisible();
  await expect(day).toHaveValue('some day');

  await day.fill('24 Nov');
  await day.press('ArrowDown');
  const calendar = page.getByRole('dialog').filter({ has: page.getByRole('table') });
  await expect(calendar.getByRole('columnheader').first()).toHaveText('Mo');
  await expect(calendar.getByRole('button', { name: /^24 November 2026/ })).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowRight');
  await expectAccessible(page);
  await page.keyboard.press('Enter');
  await expect(day).toHaveValue('Wed 2 Dec');
  await expect(day).toBeFocused();
});

test('a look back and a period are picked within their menus', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.getByRole('button', { name: /^As of/ }).click();
  const end = page.getByLabel('The end of');
  await end.fill('1 Dec');
  await end.press('Tab');
  await expect(page.getByText('lies after Tue 24 Nov')).toBeVisible();
  await end.fill('yesterday');
  await end.press('Enter');
  await expect(page).toHaveURL(/as_of=2026-11-23/);

  await page.goto('/courses/item-use?course=TTU');
  await page.getByRole('button', { name: /^Opened/ }).click();
  await page.getByLabel('From', { exact: true }).fill('2 Nov');
  await page.getByLabel('To', { exact: true }).press('ArrowDown');
  await page.getByRole('button', { name: /^15 November 2026/ }).click();
  await page.getByRole('button', { name: 'Show' }).click();
  await expect(page).toHaveURL(/from=2026-11-02&to=2026-11-16/);
});

test('one’s own account has the scheme, and how long an unused sign-in lasts', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/account');
  await page.getByText('dark', { exact: true }).click();
  await expect(page.locator('html')).toHaveAttribute('data-mantine-color-scheme', 'dark');
  await page.getByText('as the system', { exact: true }).click();
  const idle = page.getByLabel('A sign-in that nobody uses ends after');
  await idle.selectOption('two hours');
  await expect(page.getByText('Saved')).toBeVisible();
  await page.reload();
  await expect(idle).toHaveValue('120');
  // Before the next is kept: what tells of it fades in and out.
  await expectAccessible(page);
  await idle.selectOption('14 days, as every sign-in does');
  await expect(page.getByText('Saved')).toBeVisible();
});
