/** Files as other systems save them, from the first drop on an empty installation to a Watch. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, expectAccessible, signIn, test } from './help';

const sample = (name: string) => ({
  name,
  mimeType: 'application/octet-stream',
  buffer: readFileSync(join('samples', 'foreign', name)),
});

test('files of other systems are seen for what they are, and left out again', async ({ page }) => {
  test.setTimeout(90_000);
  await signIn(page, 'lead');
  await page.goto('/set-up/data');
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles([sample('teilnehmer.txt'), sample('clicks.xlsx'), sample('notes.csv')]);
  const files = page.getByRole('region', { name: 'Files to look at' });
  await expect(files.getByRole('article')).toHaveCount(3);
  const people = files.getByRole('article').filter({ hasText: 'teilnehmer.txt' });
  await expect(people.getByLabel('It seems to be (sure)')).toContainText('participants, as it was recognised');
  await expect(people).toContainText('The course is not named in it');
  await expect(files.getByRole('button', { name: 'Bring in 3 files' })).toBeDisabled();
  // The gradebook and the log name a course that is known here.
  await expect(
    files.getByRole('article').filter({ hasText: 'notes.csv' }).getByLabel('Course of all its rows'),
  ).toHaveValue('HAT');
  await people.getByLabel('Course of all its rows').fill('HAT');
  await page.keyboard.press('Tab');
  await expect(people).toContainText(/14 rows: 0 will be taken, 14 wait for a name/);
  await people.getByRole('switch', { name: /Make what is missing/ }).check();
  await expect(people).toContainText(/14 will be taken. New: 14 learners/);
  // A column that is something else is seen at once.
  await people.getByLabel('What Letzter Zugriff is').selectOption('nothing');
  await expect(people).toContainText('14 rows: 14 will be taken');
  await expectAccessible(page);
  await page.setViewportSize({ width: 390, height: 800 });
  await expectAccessible(page);
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  for (let left = 3; left > 0; left -= 1) {
    await files.getByRole('button', { name: 'Leave it out' }).first().click();
    await expect(page.getByRole('article')).toHaveCount(left - 1);
  }
});

test('a file that is no table says so', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/data');
  const picture = { name: 'pier.png', mimeType: 'image/png', buffer: Buffer.from([0x89, 0x50, 0, 0, 0, 0, 1, 2, 3]) };
  await page.locator('input[type=file]').first().setInputFiles(picture);
  const file = page.getByRole('article').filter({ hasText: 'pier.png' });
  await expect(file.getByRole('alert')).toContainText('It is not text');
  await expect(page.getByRole('button', { name: /^Bring in \d/ })).toBeDisabled();
  await file.getByRole('button', { name: 'Leave it out' }).click();
  await expect(file).toBeHidden();
});
