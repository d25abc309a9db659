import type { Page } from '@playwright/test';
import { expect, expectAccessible, signIn, test } from './help';

test.beforeEach(async ({ page }) => {
  await signIn(page, 'lead');
});

const moves = (page: Page) => page.getByRole('region', { name: 'Who moves' });

test('weights are tried on today’s list before they are kept, and nothing is kept by looking', async ({ page }) => {
  await page.goto('/set-up/weights');
  await expect(page.getByText('defaults', { exact: true })).toBeVisible();
  await page.getByLabel('Quiet, early').fill('-1');
  await page.getByLabel('Slipping from').fill('80');
  await page.getByRole('button', { name: 'See who moves' }).click();
  await expect(page.getByText('is not a weight from 0 to 100')).toBeVisible();
  await page.getByLabel('Quiet, early').fill('60');
  await page.getByRole('button', { name: 'See who moves' }).click();
  await expect(page.getByText('does not lie above slipping')).toBeVisible();
  await page.getByLabel('Slipping from').fill('30');
  await page.getByLabel('Quiet, late').fill('60');
  await page.getByRole('button', { name: 'See who moves' }).click();
  await expect(
    moves(page).getByRole('heading', { name: /Today’s list: \d+ people now, \d+ by these numbers/ }),
  ).toBeVisible();
  await expect(
    moves(page)
      .getByText(/Quiet \d+ → \d+/)
      .first(),
  ).toBeVisible();
  await expectAccessible(page);
  await page.reload();
  await expect(page.getByLabel('Quiet, early')).toHaveValue('5');
  await page.getByLabel('Quiet, early').fill('40');
  await page.getByRole('button', { name: 'Try on past courses' }).click();
  await expect(page).toHaveURL(/\/set-up\/trial\/\d+$/);
  await expect(page.getByRole('row', { name: /^the Watch with Quiet, early 5 → 40/ })).toBeVisible({ timeout: 45_000 });
  await page.goto('/set-up/weights');
  await expect(page.getByText('Nothing was set here yet.')).toBeVisible();
});

test('a course has its own weights, kept with words, and goes back to the programme’s', async ({ page }) => {
  await page.goto('/set-up/weights');
  await page.getByLabel('Set for').selectOption('NET');
  await expect(page).toHaveURL(/course=NET/);
  await expect(page.getByText('as the programme has them')).toBeVisible();
  // The Watch’s days are the programme’s: somebody may be in several courses.
  await expect(page.getByLabel('Away after')).toHaveCount(0);
  await page.getByLabel('Sessions, early').fill('30');
  await page.getByLabel('Sessions, late').fill('30');
  await page.getByRole('button', { name: 'Save…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText(/Sessions, early 10 → 30, Sessions, late 10 → 30/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog.getByText('is missing')).toBeVisible();
  await dialog.getByLabel('Why').fill('The rope work is learnt in the sessions');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('this course has its own')).toBeVisible();
  const history = page.getByRole('group', { name: 'What was set' });
  await expect(history.getByRole('row', { name: /Hesper Vane.*learnt in the sessions/ })).toContainText('holds now');
  await page.goto('/watch');
  await expect(page.getByText('What the Watch goes by was changed on Tue 24 Nov')).toBeVisible();

  await page.goto('/set-up/weights?course=NET');
  await history.getByRole('button', { name: 'Back to this' }).click();
  await dialog.getByLabel('Why').fill('As everywhere');
  await dialog.getByRole('button', { name: 'Go back' }).click();
  await expect(history.getByRole('row', { name: /As everywhere/ })).toContainText('goes by the programme’s');
  await expect(page.getByLabel('Sessions, early')).toHaveValue('10');
});

test('a trial on past courses runs in its own time, shows what came of it, and is kept', async ({ page }) => {
  await page.goto('/set-up/trial');
  await page.getByLabel('Quiet so many days or more').fill('fourteen');
  await page.getByRole('button', { name: 'Run the trial' }).click();
  await expect(page.getByText('is not a number of days')).toBeVisible();
  await page.getByLabel('Quiet so many days or more').fill('14');
  await page.getByLabel('People a week in each course').fill('0');
  await page.getByRole('button', { name: 'Run the trial' }).click();
  await expect(page.getByText('is not a number from 1 to 1000')).toBeVisible();
  await page.getByLabel('People a week in each course').fill('6');
  await page.getByRole('button', { name: 'Run the trial' }).click();
  await expect(page).toHaveURL(/\/set-up\/trial\/\d+$/);

  const figures = page.getByRole('group', { name: 'What each rule came to' });
  await expect(figures.getByRole('row', { name: /^the Watch/ })).toContainText(/\d+ % \(\d+ to \d+\)/, {
    timeout: 45_000,
  });
  await expect(figures.getByRole('row', { name: /^quiet 14 days/ })).toBeVisible();
  await expect(figures.getByRole('row', { name: /^lists by chance/ })).toBeVisible();
  await expect(page.getByRole('img', { name: /^Leavers found in time at 1 to 32 people a week/ })).toBeVisible();
  await page.getByRole('button', { name: 'Show as table' }).click();
  await expect(page.getByRole('group', { name: 'Leavers found in time as a table' }).getByRole('row')).toHaveCount(11);
  await expect(page.getByRole('group', { name: 'By when they studied' }).getByRole('row')).not.toHaveCount(1);
  await expect(page.getByRole('heading', { name: /^Missed by the Watch: \d+/ })).toBeVisible();
  await expect(page.getByRole('img', { name: /^The course’s 84 days/ }).first()).toBeVisible();
  await expectAccessible(page);

  await page.goto('/set-up/trial');
  const runs = page.getByRole('group', { name: 'Trials and fits' });
  await expect(runs.getByRole('row', { name: /the Watch · drift alone · quiet 14/ })).toContainText('done');
});

test('a fit is shown beside the defaults, and taken or not by a person', async ({ page }) => {
  await page.goto('/set-up/trial');
  await page.getByRole('button', { name: 'Fit weights to them' }).click();
  await expect(page.getByRole('group', { name: 'Fitted weights' }).getByRole('row')).toHaveCount(11, {
    timeout: 45_000,
  });
  await expect(page.getByRole('row', { name: /^the Watch, default weights/ })).toBeVisible();
  const taking = page.getByRole('link', { name: /whom these weights would move today/ });
  if ((await taking.count()) === 0) {
    await expect(page.getByText('Not proposed', { exact: true })).toBeVisible();
    return;
  }
  await taking.click();
  await expect(page).toHaveURL(/fit=\d+/);
  await page.getByRole('button', { name: 'See who moves' }).click();
  await expect(moves(page)).toBeVisible();
  await page.getByRole('button', { name: 'As they are' }).click();
  await expect(page.getByLabel('Missing work, early')).toHaveValue('20');
});
