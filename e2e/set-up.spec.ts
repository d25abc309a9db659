import type { Page } from '@playwright/test';
import { dropFile, expect, expectAccessible, signIn, takeDropped, test } from './help';

const dialogOf = (page: Page) => page.getByRole('dialog');

test('a learner is added, moved, ended, resumed and merged by hand, and every change is on record', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');
  await page.goto('/set-up/roster');
  const missing = page.getByRole('group', { name: 'Not in the last file' });
  await expect(missing.locator('tbody tr')).not.toHaveCount(0);
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Add a learner' }).click();
  await dialogOf(page).getByLabel('Id', { exact: true }).fill('L77001');
  await dialogOf(page).getByLabel('Given name').fill('Quilla');
  await dialogOf(page).getByLabel('E-mail').fill('nonsense');
  await dialogOf(page).getByRole('button', { name: 'Add' }).click();
  await expect(dialogOf(page)).toContainText('is not an e-mail address');
  await expectAccessible(page);
  await dialogOf(page).getByLabel('E-mail').fill('quilla@learner.example');
  await dialogOf(page).getByLabel('Course').selectOption({ label: 'Net and Rope Work' });
  await dialogOf(page).getByLabel('Group').fill('A');
  await dialogOf(page).getByRole('button', { name: 'Add' }).click();
  await expect(dialogOf(page)).toHaveCount(0);

  await page.goto('/learners/L77001');
  await page.getByRole('button', { name: 'Move group…' }).click();
  await dialogOf(page).getByLabel('Group').fill('B');
  await dialogOf(page).getByRole('button', { name: 'Move' }).click();
  await expect(page.getByText('· Group B').first()).toBeVisible();
  await page.getByRole('button', { name: 'End…' }).click();
  await dialogOf(page).getByLabel('On', { exact: true }).fill('2026-01-01');
  await dialogOf(page).getByRole('button', { name: 'End it' }).click();
  await expect(dialogOf(page)).toContainText('lies before the enrolment');
  await dialogOf(page).getByLabel('On', { exact: true }).fill('');
  await dialogOf(page).getByRole('button', { name: 'End it' }).click();
  await expect(page.getByText('Enrolment ended', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('button', { name: 'Move group…' })).toBeVisible();
  await page.getByRole('button', { name: 'Add a contact' }).click();
  await dialogOf(page).getByLabel('Name', { exact: true }).fill('Old Quill');
  await dialogOf(page).getByLabel('Relation').fill('employer');
  await dialogOf(page).getByRole('button', { name: 'Save the contact' }).click();
  await expect(page.getByText('Old Quill', { exact: true })).toBeVisible();

  await page.getByRole('button', { name: 'Merge another record…' }).click();
  await dialogOf(page).getByLabel('The other record’s id').fill('NOBODY');
  await dialogOf(page).getByRole('button', { name: 'Merge' }).click();
  await expect(dialogOf(page)).toContainText('No learner with the id NOBODY');
  await dialogOf(page).getByLabel('The other record’s id').fill('L20447');
  await dialogOf(page).getByRole('button', { name: 'Merge' }).click();
  await expect(page.getByText(/^L20447 was merged into this record today/)).toBeVisible();
  await page.goto('/learners/L20447');
  await expect(page.getByRole('heading', { level: 1, name: 'Quilla' })).toBeVisible();
  await page.getByRole('button', { name: 'Take apart' }).click();
  await expect(page.getByText('Taken apart')).toBeVisible();
  await page.goto('/learners/L20447');
  await expect(page.getByRole('heading', { level: 1, name: 'Quilla' })).toHaveCount(0);

  await page.goto('/set-up/changes');
  const rows = page.getByRole('group', { name: 'Changes' }).getByRole('row');
  for (const [who, what] of [
    ['Hesper Vane', 'took apart'],
    ['Hesper Vane', 'merged'],
    ['Hesper Vane', 'added a contact'],
    ['Hesper Vane', 'moved group'],
    ['Hesper Vane', 'added the learner'],
  ]) {
    await expect(rows.filter({ hasText: who }).filter({ hasText: what })).not.toHaveCount(0);
  }
});

test('whoever is not in the last file is listed, and ended with one button', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/roster');
  const missing = page.getByRole('group', { name: 'Not in the last file' }).locator('tbody tr');
  await expect(missing.first()).toBeVisible();
  const before = await missing.count();
  await page.getByRole('button', { name: /^End \d+ enrolment/ }).click();
  await dialogOf(page).getByRole('button', { name: 'End them' }).click();
  await expect(page.getByText(/enrolments? ended/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(missing).toHaveCount(before);
});

test('staff accounts, roles and scopes', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/staff');
  await page.getByRole('button', { name: 'Add a member of staff' }).click();
  await dialogOf(page).getByLabel('Given name').fill('Wilmot');
  await dialogOf(page).getByLabel('E-mail').fill('wilmot@saltholm.example');
  await dialogOf(page).getByRole('button', { name: 'Add' }).click();
  const row = page.getByRole('row').filter({ hasText: 'wilmot@saltholm.example' });
  await expect(row).toContainText('nobody');
  const change = async (item: string) => {
    await row.getByRole('button', { name: 'Change' }).click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  await change('Give a scope…');
  await dialogOf(page).getByLabel('They see').selectOption('group');
  await dialogOf(page).getByLabel('Which').fill('HAT-A');
  await dialogOf(page).getByRole('button', { name: 'Give' }).click();
  await expect(dialogOf(page)).toContainText('COURSE/GROUP');
  await dialogOf(page).getByLabel('Which').fill('HAT/A');
  await dialogOf(page).getByRole('button', { name: 'Give' }).click();
  await expect(row).toContainText('group HAT/A');
  await change('Set a password…');
  await dialogOf(page).getByRole('textbox', { name: 'Password' }).fill('a long word of sea');
  await dialogOf(page).getByRole('button', { name: 'Set it' }).click();
  await expect(row).toContainText('yes');
  // What takes something from somebody says who and which, asks, and is taken back.
  await row.getByRole('button', { name: 'Take the scope group HAT/A' }).click();
  await expect(dialogOf(page)).toContainText('Wilmot no longer sees group HAT/A');
  await dialogOf(page).getByRole('button', { name: 'Take it' }).click();
  await expect(row).toContainText('nobody');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row).toContainText('group HAT/A');
  await change('End the account…');
  await dialogOf(page).getByRole('button', { name: 'End it' }).click();
  await expect(row).toContainText('ended');
  await expectAccessible(page);
});

test('a file with other headings asks which column is what, and remembers it; unknown words are mapped', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');
  await page.goto('/set-up/data');
  const strange = `Student Number,First name,Surname,Mail,Class,Cohort,Joined
L88001,Pilar,Saltmarsh,pilar@learner.example,TTU,A,03/10/2026
L88002,Ulf,Saltmarsh,ulf@learner.example,TTU,A,30/02/2026
`;
  const file = await dropFile(page, 'strange.csv', strange);
  await expect(file.getByLabel('What Student Number is')).toHaveValue('learner_id');
  await expect(file.getByLabel('What Class is')).toHaveValue('course');
  await expect(file).toContainText('2 rows: 1 will be taken, 1 cannot be read');
  await expect(file).toContainText('enrolled_on is not a date');
  await expect(file).toContainText('03/10/2026 is read as Sat 3 Oct, 00:00');
  await expectAccessible(page);
  // What is said goes before what was proposed: of two to one, the other is no longer it, and a column that is needed is asked for.
  await file.getByLabel('What Mail is').selectOption('given_name');
  await expect(file).toContainText('1 will be taken');
  await expect(file.getByLabel('What First name is')).toHaveValue('nothing');
  await file.getByLabel('What Mail is').selectOption('email');
  await expect(file.getByLabel('What First name is')).toHaveValue('given_name');
  await file.getByLabel('What First name is').selectOption('nothing');
  await expect(file).toContainText('Its columns do not say given_name');
  await expect(page.getByRole('button', { name: 'Bring in 1 file' })).toBeDisabled();
  await file.getByLabel('What First name is').selectOption('given_name');
  await file.getByLabel('Source').fill('registry');
  await file.getByLabel('Source').blur();
  await takeDropped(page, 'strange.csv');
  await page.reload();
  const again = await dropFile(page, 'strange-again.csv', strange);
  await expect(again.getByLabel('What First name is')).toHaveValue('given_name');
  await again.getByRole('button', { name: 'Leave it out' }).click();
  await page.goto('/set-up/mapping');
  await expect(page.getByRole('group', { name: 'Settled files' })).toContainText('registry');
  await expectAccessible(page);

  const words = page.getByRole('group', { name: 'Action words' });
  await expect(words.getByRole('row').nth(1)).toContainText('bookmarked');
  await words.getByLabel('Kind of bookmarked').selectOption('looked');
  await expect(words.getByRole('row').filter({ hasText: 'bookmarked' })).not.toContainText('being made anew', {
    timeout: 30_000,
  });
  await page.reload();
  await expect(words.getByLabel('Kind of bookmarked')).toHaveValue('looked');
});
