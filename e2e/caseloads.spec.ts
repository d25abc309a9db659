import { expect, expectAccessible, signIn, test } from './help';

test('learners are put in a caseload of one’s own, which is looked at everywhere, and is shared', async ({ page }) => {
  await signIn(page, 'mentor');
  const name = `Club ${Date.now()}`;
  await page.goto('/learners?quiet=7');
  // The first of them selects everybody.
  const boxes = page.getByRole('checkbox', { name: /^Select / });
  await boxes.nth(1).check();
  await boxes.nth(2).check();
  await page.getByRole('region', { name: 'Selected learners' }).getByRole('button', { name: 'Caseload…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Caseload', { exact: true }).selectOption('new');
  await dialog.getByLabel('Its name').fill(name);
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog).toBeHidden();

  await page.getByRole('button', { name: /^Caseload: / }).click();
  await page.getByRole('menuitem', { name: new RegExp(name) }).click();
  await expect(page.getByRole('button', { name: `Caseload: ${name}` })).toBeVisible();
  await page.goto(page.url().replace(/\/learners\?.*in=/, '/learners?in='));
  await expect(page.getByText(/^2 of /)).toBeVisible();
  for (const path of ['/watch', '/courses/progress', '/courses/work-due', '/sessions/attendance', '/access-log'])
    await expect((await page.request.get(`${path}?${page.url().split('?')[1]}`)).status()).toBe(200);

  await page.goto('/caseloads');
  const row = page.getByRole('row', { name: new RegExp(name) });
  await expect(row).toContainText('2 learners put in by hand');
  await expectAccessible(page);
  await row.getByRole('button', { name: 'Share' }).click();
  await dialog.getByText('Jory Kestle').click();
  await dialog.getByRole('button', { name: 'Share' }).click();
  await expect(row).toContainText('shared with Jory Kestle');
  await row.getByRole('button', { name: 'Remove' }).click();
  await expect(row).toBeHidden();
});

test('a list’s filters become a rule, and a wrong one says what is wrong', async ({ page }) => {
  await signIn(page, 'lead');
  const name = `Quiet ${Date.now()}`;
  await page.goto('/learners?quiet=14&in=course:HAT');
  await page.getByRole('button', { name: 'Caseload', exact: true }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog).toContainText('is missing');
  await dialog.getByLabel('Name').fill(name);
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog).toBeHidden();
  await page.goto('/caseloads');
  const row = page.getByRole('row', { name: new RegExp(name) });
  await expect(row).toContainText('Course HAT');
  await row.getByRole('button', { name: 'Remove' }).click();
  await expect(row).toBeHidden();
});
