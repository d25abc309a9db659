import { expect, expectAccessible, signIn, test } from './help';

test.use({ viewport: { width: 390, height: 844 } });

test('on a telephone: the menu, the sheet with its actions, a call and a note', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'mentor');
  const rows = page.getByRole('list', { name: 'Learners in order of need' }).getByRole('listitem');
  const name = (await rows.nth(2).locator('strong').first().textContent())!;
  await rows.nth(2).getByRole('button').first().click();
  const sheet = page.getByRole('dialog', { name: 'Why on the list' });
  await expect(sheet.getByRole('heading', { name })).toBeVisible();
  await expectAccessible(page);
  // One touch for whom, one for the call: it dials, and asks what came of it.
  await expect(sheet.getByRole('link', { name: 'Call', exact: true })).toHaveAttribute('href', /^tel:\+?\d+$/);
  await sheet.getByRole('button', { name: 'Log a call' }).click();
  const call = page.getByRole('dialog', { name: `Call to ${name}` });
  await call.getByLabel('Follow up on').fill('');
  await call.getByRole('button', { name: /Left a message/ }).click();
  await call.getByRole('button', { name: 'Save the call' }).click();
  // One waits for what it brings: the next takes their place.
  await expect(sheet.getByRole('heading', { name })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Call taken back')).toBeVisible();
  await sheet.getByRole('button', { name: 'Close' }).click();

  // Search stands behind its icon.
  const field = page.getByLabel('Find a learner, course or item');
  await expect(field).toBeHidden();
  await page.getByRole('button', { name: 'Search' }).click();
  await expect(field).toBeFocused();
  await page.keyboard.type('oriel ket');
  await expect(page.getByRole('option', { name: /Oriel Kettle/ }).first()).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(field).toBeHidden();

  const foot = page.getByRole('navigation', { name: 'Main, short' });
  await foot.getByRole('link', { name: 'Learners' }).click();
  await expect(page).toHaveURL(/\/learners/);
  const learners = page.getByRole('group', { name: 'Learners' }).locator('tbody tr');
  const second = (await learners.nth(1).getByRole('link').first().textContent())!;
  await learners.nth(1).getByRole('button', { name: 'why' }).click();
  await expect(page.getByRole('dialog', { name: 'Why' }).getByRole('heading', { name: second })).toBeVisible();
  await page.getByRole('dialog', { name: 'Why' }).getByRole('button', { name: 'Close' }).click();

  await foot.getByRole('button', { name: 'More' }).click();
  await page
    .getByRole('dialog')
    .getByRole('link', { name: /Follow-ups/ })
    .click();
  const first = page.getByRole('list', { name: 'Follow-ups' }).getByRole('listitem').first();
  await expect(first.getByRole('button', { name: 'Close…' })).toBeVisible();
  for (const path of ['/write/1', '/follow-ups', '/learners/L20417']) {
    await page.goto(path);
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect([path, wide]).toEqual([path, 0]);
  }
});
