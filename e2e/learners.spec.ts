import { readFileSync } from 'node:fs';
import { expect, expectAccessible, signIn, test } from './help';

test('search as one types, filters as sentences, sort, pages, and the same rows as a file', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'mentor');
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Learners' }).click();
  const count = page.getByText(/^\d+ of \d+$/).first();
  const rows = page.getByRole('group', { name: 'Learners' }).locator('tbody tr');
  await expect(rows).toHaveCount(25);
  await expectAccessible(page);

  await page.getByLabel(/^Narrow by/).fill('kettle');
  await expect(page).toHaveURL(/q=kettle/);
  // Two people of one name are told apart on the row.
  const twins = rows.filter({ hasText: 'Oriel Kettle' });
  await expect(twins).toHaveCount(2);
  expect(new Set(await twins.allTextContents()).size).toBe(2);
  await page.getByLabel(/^Narrow by/).fill('');
  await expect(page).toHaveURL(/\/learners$/);

  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByRole('textbox', { name: 'Quiet, days or more' }).fill('9');
  await page.getByRole('button', { name: 'Add: Quiet, days or more' }).click();
  await expect(page.getByText('Quiet 9 days or more')).toBeVisible();
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByRole('button', { name: 'Add: Not contacted, days' }).click();
  await page.getByRole('button', { name: 'Add a filter' }).click();
  await page.getByLabel('Course', { exact: true }).selectOption({ label: 'Hatchery Technician' });
  await expect(page).toHaveURL(/quiet=9&not_contacted=14&course=HAT/);
  await page.getByRole('button', { name: 'Clear: Course HAT' }).click();
  await expect(page).not.toHaveURL(/course=HAT/);
  const heading = page.getByRole('columnheader', { name: 'Days quiet' });
  await heading.getByRole('link', { name: 'Days quiet' }).click();
  await expect(heading).toHaveAttribute('aria-sort', 'ascending');
  await heading.getByRole('link', { name: 'Days quiet' }).click();
  await expect(heading).toHaveAttribute('aria-sort', 'descending');
  await expect(rows.first()).toContainText('never');
  const [shown] = (await count.textContent())!.split(' of ').map(Number);

  // Columns are chosen and kept, and the file has exactly those.
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Time online' }).uncheck();
  await page.getByRole('checkbox', { name: 'E-mail' }).uncheck();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('columnheader', { name: 'E-mail' })).toHaveCount(0);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  const csv = readFileSync(await (await download).path(), 'utf8')
    .trim()
    .split('\r\n');
  expect(csv).toHaveLength(shown + 1);
  expect(csv[0]).toBe(
    'learner_id,name,phone,organisation,courses,last_access,days_quiet,drift,band,overdue,last_contact',
  );
  expect(csv[1]).toContain((await rows.first().locator('td').nth(1).locator('a').textContent())!);
  await page.reload();
  await expect(page.getByRole('columnheader', { name: 'E-mail' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Time online' }).check();
  await page.getByRole('checkbox', { name: 'E-mail' }).check();
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('columnheader', { name: 'E-mail' })).toHaveCount(1);

  await page.getByRole('link', { name: 'Call sheet' }).click();
  await expect(page.getByRole('heading', { name: /^Call sheet/ })).toBeVisible();
  await expect(page.locator('tbody tr')).toHaveCount(shown);
  await expectAccessible(page);
  await page.getByRole('link', { name: 'Back to the list' }).click();

  await page.goto('/learners?limit=10&page=2');
  await expect(page.getByText(/^11 to 20 of/)).toBeVisible();
  await page.goto('/learners?quiet=soon');
  await expect(page.getByRole('alert').filter({ hasText: '“Quiet” is not a number of days' })).toBeVisible();
  await page.goto('/learners?as_of=2026-02-30');
  await expect(page.getByRole('alert').filter({ hasText: 'is not a date' })).toBeVisible();
  await expect(rows).toHaveCount(25);
});

test('a list is kept under a name, shared by its link, and says when what it names is gone', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/learners?quiet=7&course=NET');
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('menuitem', { name: 'Save this list as …' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Quiet at the nets');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('Saved as “Quiet at the nets”')).toBeVisible();
  await page.goto('/learners');
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('menuitem', { name: 'Quiet at the nets' }).click();
  await expect(page).toHaveURL(/quiet=7&course=NET/);
  await page.getByRole('button', { name: 'Views' }).click();
  await page.getByRole('button', { name: 'Remove the view Quiet at the nets' }).click();
  await page.goto('/learners?quiet=7&course=OLD');
  await expect(page.getByRole('alert').filter({ hasText: 'the course OLD is gone' })).toBeVisible();
  await page.getByRole('link', { name: 'show everybody' }).click();
  await expect(page.getByRole('group', { name: 'Learners' }).locator('tbody tr')).toHaveCount(25);
});

test('endless rows come as one scrolls, and the one under the cursor is explained', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/learners?limit=endless');
  const rows = page.getByRole('group', { name: 'Learners' }).locator('tbody tr');
  const total = Number(
    /of (\d+)/.exec(
      (await page
        .getByText(/^\d+ of \d+$/)
        .first()
        .textContent())!,
    )![1],
  );
  const seen = new Set<string>();
  await expect(async () => {
    await page.mouse.wheel(0, 500);
    for (const id of await rows.locator('td:nth-child(2) div').allTextContents()) seen.add(id);
    expect(seen.size).toBe(total);
  }).toPass({ intervals: [50], timeout: 60_000 });
  // However long the list is, what is out of sight is not drawn; the keys reach it all the same.
  expect(await rows.count()).toBeLessThan(100);
  await rows.nth(20).focus();
  await page.keyboard.press('Home');
  await expect(page.locator('tr:focus')).toHaveAttribute('aria-rowindex', '2');
  await page.keyboard.press('End');
  await expect(page.locator('tr:focus')).toHaveAttribute('aria-rowindex', String(total + 1));
  await page.goto('/learners');
  await rows.first().getByRole('link').first().click();
  await expect(page.getByRole('heading', { name: 'Story' })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the list' }).click();
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  await expect(panel).toContainText('1 of');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  const second = (await rows.nth(1).locator('td').nth(1).locator('a').textContent())!;
  await expect(panel.getByRole('heading', { name: second })).toBeVisible();
  await page.keyboard.press('Space');
  await page.getByRole('button', { name: /^Select all/ }).click();
  await expect(page.getByText(`${total} selected`)).toBeVisible();
});

test('search finds learners, courses and items from every screen', async ({ page }) => {
  await signIn(page, 'mentor');
  for (const path of ['/follow-ups/notes', '/watch']) {
    await page.goto(path);
    await page.keyboard.press('/');
    await page.keyboard.type('oriel ket');
    await expect(page.getByRole('option', { name: /Oriel Kettle/ })).toHaveCount(2);
    await page.keyboard.press('Escape');
  }
  const input = page.getByLabel('Find a learner, course or item');
  await input.fill('hatchery');
  await page.getByRole('option', { name: 'Hatchery Technician HAT' }).click();
  await expect(page).toHaveURL(/in=course/);
  await input.fill('the stream');
  await expect(page.getByRole('option').first()).toContainText('who has not opened it');
  await expectAccessible(page);
  await page.getByRole('option').first().click();
  await expect(page.getByText(/^Never opened TTU\//)).toBeVisible();
  await page.getByRole('link', { name: 'who has opened it' }).click();
  await expect(page.getByText(/^Opened TTU\//)).toBeVisible();
  await input.fill('zzzz');
  await expect(page.getByText('Nothing you see matches.')).toBeVisible();
});
