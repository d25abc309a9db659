import type { Page } from '@playwright/test';
import { expect, signIn, test } from './help';

/** Whatever the page asks the server for is lost on its way, as by a telephone in a tunnel. @returns ends that */
async function loseAnswers(page: Page, which: 'pages' | 'everything'): Promise<() => Promise<void>> {
  const isLost = (headers: Record<string, string>) => which === 'everything' || 'rsc' in headers;
  await page.route('**/*', (route) =>
    isLost(route.request().headers()) ? route.abort('internetdisconnected') : route.fallback(),
  );
  return () => page.unroute('**/*');
}

const lost = (page: Page) => page.getByRole('status').filter({ hasText: 'There is no connection to Lee Shore' });

test('a page that is to be shown anew stays while there is no connection, and follows when there is', async ({
  page,
}) => {
  await signIn(page, 'instructor');
  await page.goto('/sessions/HAT-A-09/roll');
  const marked = page.getByRole('radiogroup').first().getByRole('radio', { name: 'partial' });
  await expect(marked).toBeVisible();
  const find = await loseAnswers(page, 'pages');
  await marked.click();
  await expect(page.getByText('Every mark is saved')).toBeVisible();
  await expect(lost(page)).toBeVisible();
  await expect(marked).toBeChecked();
  await find();
  await expect(lost(page)).toBeHidden();
  await expect(page.getByText(/^Every change of a mark/)).toBeVisible();
});

test('what is done without a connection is not done twice, and nothing typed is lost', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.keyboard.press('n');
  const dialog = page.getByRole('dialog', { name: /^Note on/ });
  const text = dialog.getByLabel('Note', { exact: true });
  await text.fill('Rows out at dawn, and studies then');
  const find = await loseAnswers(page, 'everything');
  await dialog.getByRole('button', { name: 'Save the note' }).click();
  await expect(page.getByText('It was not done, or its answer was lost.')).toBeVisible();
  await expect(lost(page)).toBeVisible();
  await expect(text).toHaveValue('Rows out at dawn, and studies then');
  await find();
  await dialog.getByRole('button', { name: 'Save the note' }).click();
  await expect(page.getByText(/^Note on .* kept/)).toBeVisible();
  await expect(lost(page)).toBeHidden();
  await page.goto('/follow-ups/notes');
  await expect(page.getByText('Rows out at dawn, and studies then')).toHaveCount(1);
});

test('a link that is pressed without a connection is followed when it is back', async ({ page, context }) => {
  await signIn(page, 'mentor');
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible();
  await context.setOffline(true);
  await page.getByRole('link', { name: 'Follow-ups' }).click();
  await expect(lost(page)).toBeVisible();
  await expect(page).toHaveURL(/\/watch/);
  await context.setOffline(false);
  await expect(page).toHaveURL(/\/follow-ups/);
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Follow');
  await expect(lost(page)).toBeHidden();
});

test('what is chosen before the page has come to life counts all the same', async ({ page }) => {
  await signIn(page, 'lead');
  let arrive: (() => void) | undefined;
  const waits = new Promise<void>((resolve) => (arrive = resolve));
  await page.route('**/_next/static/**/*.js', async (route) => {
    await waits;
    await route.fallback();
  });
  await page.goto('/courses/item-use', { waitUntil: 'commit' });
  const course = page.getByRole('combobox', { name: 'Course' });
  await course.selectOption('SBE');
  await page.waitForTimeout(300);
  expect(page.url()).not.toContain('course=SBE');
  arrive!();
  await expect(page).toHaveURL(/course=SBE/);
  await expect(course).toHaveValue('SBE');
  // A link to what is no choice leads nowhere else by itself.
  await page.goto('/courses/progress?course=HAT&unit=none-such');
  await expect(page.getByRole('heading', { name: 'Progress' })).toBeVisible();
  await page.waitForTimeout(1000);
  expect(page.url()).toContain('unit=none-such');
});

test('signing out without a connection says so, and can be tried again', async ({ page }) => {
  await signIn(page, 'mentor');
  const find = await loseAnswers(page, 'everything');
  await page.getByRole('button', { name: 'Sign out' }).click();
  const alert = page.getByRole('alert').filter({ hasText: 'There is no connection' });
  await expect(alert).toBeVisible();
  await find();
  await alert.getByRole('button', { name: 'Try again' }).click();
  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page).toHaveURL(/\/sign-in/);
});
