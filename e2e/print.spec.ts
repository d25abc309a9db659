import { expect, test, type Page } from '@playwright/test';
import { signIn } from './help';

/** Presses Print, and has the page as it goes to paper. */
async function onPaper(page: Page): Promise<void> {
  await page.evaluate(() => {
    window.print = () => {
      document.body.dataset.printed = 'yes';
    };
  });
  await page.getByRole('button', { name: 'Print', exact: true }).click();
  await expect(page.locator('body')).toHaveAttribute('data-printed', 'yes');
  await page.emulateMedia({ media: 'print' });
  await page.evaluate(() => void window.dispatchEvent(new Event('beforeprint')));
}

async function expectNothingToPress(page: Page): Promise<void> {
  for (const role of ['button', 'navigation', 'checkbox', 'searchbox'] as const)
    expect([role, await page.getByRole(role).filter({ visible: true }).allTextContents()]).toEqual([role, []]);
}

test('progress goes to paper as pages of columns, each with the names and its heads, and comes back', async ({
  page,
}) => {
  await signIn(page, 'lead');
  await page.goto('/courses/progress?course=HAT');
  const count = Number(/(\d+) learners/.exec((await page.getByText(/learners ·/).textContent())!)![1]);
  const items = Number(/(\d+) items/.exec((await page.getByText(/items/).first().textContent())!)![1]);
  await onPaper(page);
  const sheets = page.getByRole('table', { name: 'Progress' });
  const pages = await sheets.count();
  expect(pages).toBeGreaterThan(2);
  let columns = 0;
  for (let index = 0; index < pages; index += 1) {
    const sheet = sheets.nth(index);
    await expect(sheet.locator('tbody tr')).toHaveCount(count);
    await expect(sheet.getByRole('columnheader', { name: 'Learner' })).toBeVisible();
    columns += (await sheet.locator('thead tr').last().getByRole('columnheader').count()) - 4;
  }
  expect(columns).toBe(items);
  await expectNothingToPress(page);
  await page.emulateMedia({ media: null });
  await page.evaluate(() => void window.dispatchEvent(new Event('afterprint')));
  await expect(page.getByRole('grid', { name: 'Progress' })).toBeVisible();
});

test('attendance has in a row and trend on paper; a list and a learner’s pages have nothing to press', async ({
  page,
}) => {
  await signIn(page, 'lead');
  await page.goto('/sessions/attendance?course=HAT');
  await onPaper(page);
  const sheet = page.getByRole('table', { name: 'Attendance' }).first();
  for (const name of ['Rate', 'In a row', 'Trend'])
    await expect(sheet.getByRole('columnheader', { name, exact: true })).toBeVisible();
  await expectNothingToPress(page);
  for (const path of ['/courses/work-due?course=HAT', '/learners/L20834/courses/HAT', '/learners/L20834/everything']) {
    await page.emulateMedia({ media: null });
    await page.goto(path);
    await onPaper(page);
    await expectNothingToPress(page);
  }
});
