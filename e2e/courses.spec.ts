import { readFileSync } from 'node:fs';
import { expect, expectAccessible, signIn, test } from './help';

test('item use: sorted, for a period, and one press gives the people, to write to', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'instructor');
  await page.goto('/watch?in=course:HAT');
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Courses' }).click();
  await expect(page.getByRole('heading', { name: 'Courses', exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Item use', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Item use', exact: true })).toBeVisible();
  await expect(page.getByLabel('Course', { exact: true })).toHaveValue('HAT');
  const rows = page.getByRole('group', { name: 'Items' }).locator('tbody tr');
  const week = page.getByRole('rowheader', { name: 'Week 1: Water' }).or(rows.first());
  await expect(week.first()).toContainText('Week 1');
  await expect(page.getByText('Log incomplete Wed 4 Nov to Thu 5 Nov')).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('columnheader', { name: 'Never' }).getByRole('link').click();
  await expect(page.getByRole('columnheader', { name: 'Never' })).toHaveAttribute('aria-sort', 'descending');
  await expect(page).toHaveURL(/sort=-never/);

  const line = rows.filter({ hasText: 'Tank log: quiz' });
  const openers = (await line.getByRole('link', { name: / of \d+$/ }).textContent())!;
  const [opened, base] = openers.split(' of ').map(Number);
  const never = line.locator('td').nth(3).getByRole('link');
  expect(Number(await never.textContent())).toBe(base - opened);
  await never.click();
  await expect(page).toHaveURL(/learners\?.*not_opened=HAT/);
  await expect(page.getByText(`${base - opened} of `).first()).toBeVisible();
  await page.goBack();

  await page.getByRole('button', { name: 'Opened at any time' }).click();
  await page.getByRole('link', { name: 'The last 7 days' }).click();
  await expect(page).toHaveURL(/period=7-days/);
  const then = line.getByRole('link', { name: / of \d+$/ });
  const openedThen = (await then.textContent())!.split(' of ')[0];
  await then.click();
  await expect(page).toHaveURL(/learners\?.*opened_from=.*opened_to=/);
  await expect(page.getByText(`${openedThen} of `).first()).toBeVisible();
  for (const bad of ['from=2026-11-10&to=2026-11-09', 'period=session&from=2026-11-01']) {
    await page.goto(`/courses/item-use?course=HAT&${bad}`);
    await expect(page.getByRole('alert').filter({ hasText: 'cannot be shown' })).toBeVisible();
  }
});

test('opens per day: by kind, group and role, as chart, table and file, each leading to the log', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'instructor');
  await page.goto('/courses/item-use?course=SBE&weeks=2');
  const chart = page.getByRole('figure').filter({ hasText: 'Opens per day' });
  await expect(chart.locator('.recharts-bar-rectangle path').first()).toBeVisible();
  await expectAccessible(page);
  await chart.getByRole('link', { name: 'Show as table' }).click();
  const table = page.getByRole('group', { name: 'Opens per day as a table' });
  await expect(table.getByRole('columnheader')).toHaveText(['Day', 'looked', 'worked', 'talked']);
  await expect(table.locator('tbody tr')).toHaveCount(14);
  const point = table.getByRole('link').last();
  const opens = Number((await point.textContent())!.replace(',', ''));
  const file = page.waitForEvent('download');
  await chart.getByRole('link', { name: 'CSV' }).click();
  expect(
    readFileSync(await (await file).path(), 'utf8')
      .trim()
      .split('\r\n'),
  ).toHaveLength(15);
  await point.click();
  await expect(page).toHaveURL(/access-log\?course=SBE&.*kind=\w+&from=/);
  await expect(page.getByText(`${opens.toLocaleString('en-GB')} event`).first()).toBeVisible();

  await page.goto('/courses/item-use?course=SBE&weeks=1&table=yes&by=role');
  await expect(table.getByRole('columnheader')).toHaveText(['Day', 'learners', 'staff']);
  await chart.getByRole('link', { name: 'by group' }).click();
  await expect(table.getByRole('columnheader')).toHaveText(['Day', 'Thu', 'Tue']);
  // A bar is a link too.
  await page.goto('/courses/item-use?course=SBE&weeks=1');
  await chart.locator('.recharts-bar-rectangle path').nth(2).click();
  await expect(page).toHaveURL(/access-log\?course=SBE/);
});

test('who did, who did not: two lists, the answer as a sentence, writing to those who have not, and a check that tells', async ({
  page,
  context,
}) => {
  test.setTimeout(150_000);
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await signIn(page, 'instructor');
  await page.goto('/courses/who-did');
  await expect(page.getByText(/hoose an item, a unit/)).toBeVisible();
  await expectAccessible(page);
  // What falls due about now is one press away.
  const due = page.getByRole('region', { name: 'Due about now' }).getByRole('link').first();
  const title = (await due.textContent())!;
  await due.click();
  await expect(page.getByRole('status').getByText(`worked on ${title}`)).toBeVisible();
  await page.goto('/courses/who-did');
  await page.getByLabel('Course', { exact: true }).selectOption('HAT');
  await page.getByLabel('Any …').selectOption('discussion');
  await page.getByLabel('of unit').selectOption({ label: 'Week 3: Salinity' });
  await page.getByLabel('Kind', { exact: true }).selectOption('talked');
  await expect(page.getByText(/learners talked in any discussion of Week 3: Salinity, at any time/)).toBeVisible();
  await page.getByLabel('When').selectOption('7-days');
  await expect(page).toHaveURL(/period=7-days/);
  const didNot = page.getByRole('region', { name: 'Has not' });
  await expect(didNot.getByText(/not in these days, but earlier, on/).first()).toBeVisible();
  await expectAccessible(page);

  // One item: the message has it in its text.
  await page.getByLabel('When').selectOption('');
  await page.getByLabel('Item', { exact: true }).selectOption({ label: 'Tank log: quiz' });
  await expect(page.getByText(/talked in Tank log: quiz/)).toBeVisible();
  await page.getByLabel('Kind', { exact: true }).selectOption('worked');
  const says = page
    .getByRole('status')
    .getByText(/^\d+ of \d+ learners worked on Tank log: quiz, at any time; \d+ did not\.$/);
  await expect(says).toBeVisible();
  const [has, all] = (await says.textContent())!.match(/\d+/g)!.map(Number);
  await page.getByRole('button', { name: 'Copy as a sentence' }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(await says.textContent());
  await page.getByRole('button', { name: 'Select all who have not' }).click();
  await page.getByRole('button', { name: `Write to ${all - has}`, exact: true }).click();
  await expect(page).toHaveURL(/\/write\/\d+/);
  await expect(page.getByLabel('Subject')).toHaveValue('Tank log: quiz in Hatchery Technician');
  await expect(page.getByLabel('Text', { exact: true })).toHaveValue(
    /“Tank log: quiz” in Hatchery Technician is still waiting/,
  );
  await page.goBack();

  // Kept as a check, it is asked at once, and told of in the rail.
  await page.getByRole('button', { name: 'Save as a check' }).click();
  const dialog = page.getByRole('dialog', { name: 'Save as a check' });
  await dialog.getByLabel('Tell me when').fill('many');
  await dialog.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(dialog.getByText('is not a number of learners')).toBeVisible();
  await dialog.getByLabel('Tell me when').fill(String(all - has - 1));
  await dialog.getByLabel('Name').fill('Quiz of week 2');
  await dialog.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(dialog).toBeHidden();
  await page.reload();
  await expect(page.getByTitle('saved checks that passed their number')).toHaveText('1');
  await page.getByRole('link', { name: 'Saved checks' }).click();
  const row = page.getByRole('row', { name: /Quiz of week 2/ });
  await expect(row).toContainText(`${all - has} of ${all}`);
  await expect(row).toContainText('New: passed its number');
  await expectAccessible(page);
  await page.reload();
  await expect(row).toContainText('Passed its number');
  await expect(page.getByTitle('saved checks that passed their number')).toHaveCount(0);
  await row.getByRole('button', { name: 'Remove Quiz of week 2' }).click();
  await expect(row).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row).toBeVisible();
  await row.getByRole('link', { name: 'Quiz of week 2' }).click();
  await expect(says).toBeVisible();

  await page.goto('/courses/who-did?course=HAT&item=GONE');
  await expect(page.getByRole('alert').filter({ hasText: 'cannot be answered' })).toBeVisible();
  await page.goto('/courses/who-did?course=HAT&kind=looked&period=since-set');
  await expect(page.getByRole('alert').filter({ hasText: 'needs an item' })).toBeVisible();
});
