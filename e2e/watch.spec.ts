import { expect, expectAccessible, signIn, test } from './help';

test('the Shoreline tells names and narrows the list', async ({ page }) => {
  await signIn(page, 'mentor');
  const shoreline = page.getByRole('application', { name: /^Shoreline of \d+ learners/ });
  await shoreline.focus();
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByText(/^\p{L}.+, drift \d+, adrift$/u).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/learners\//);
  await page.goBack();

  const box = (await shoreline.boundingBox())!;
  await page.mouse.move(box.x + 400, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 100, box.y + 30, { steps: 4 });
  await page.mouse.up();
  await expect(page).toHaveURL(/drift=\d+-\d+/);
  await expect(page.getByText(/^Drift \d+ to \d+/)).toBeVisible();
  await expect(page.getByText('Your week')).toHaveCount(0);
  await page.getByRole('link', { name: 'clear' }).click();
  await expect(page).toHaveURL(/\/watch$/);

  await page.getByRole('link', { name: /adrift/ }).click();
  await expect(page).toHaveURL(/band=2/);
});

test('set aside, undo, until a day, and back by hand', async ({ page }) => {
  await signIn(page, 'instructor');
  const rows = page.getByRole('list', { name: 'Learners in order of need' }).getByRole('listitem');
  const name = (await rows.first().getByRole('button').first().locator('strong').textContent())!;
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  const dialog = page.getByRole('dialog');
  const setAside = async () => {
    await panel.getByRole('button', { name: 'Set aside…' }).click();
    await dialog.getByLabel('Reason').fill('Harvest');
  };
  await setAside();
  await dialog.getByRole('button', { name: 'Set aside' }).click();
  await expect(rows.filter({ hasText: name })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  // Back on the list, if not where they were: what the log brings in the meantime counts.
  await expect(rows.filter({ hasText: name })).toHaveCount(1);
  await rows.filter({ hasText: name }).getByRole('button').first().click();
  await expect(panel).toContainText(name);

  await setAside();
  await dialog.getByRole('radio', { name: 'a day' }).check();
  await dialog.getByLabel('Day', { exact: true }).fill('2026-11-24');
  await dialog.getByRole('button', { name: 'Set aside' }).click();
  await expect(dialog.getByText('has to lie after today')).toBeVisible();
  await expectAccessible(page);
  await dialog.getByLabel('Day', { exact: true }).fill('2026-12-01');
  await dialog.getByRole('button', { name: 'Set aside' }).click();
  await expect(rows.filter({ hasText: name })).toHaveCount(0);
  await page.getByRole('link', { name: 'set aside' }).click();
  await expect(page.getByRole('row').filter({ hasText: name })).toContainText('Tue 1 Dec');
  await page.getByRole('button', { name: 'Put back' }).click();
  await expect(page.getByText('You have set nobody aside')).toBeVisible();
});

test('the line of one’s week stands where one sets it, and is kept', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.getByRole('button', { name: /^Your week: 10 people/ }).click();
  await page.getByLabel('How many people you can contact in a week').fill('none');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('is not a number from 1 to 1000')).toBeVisible();
  await page.getByLabel('How many people you can contact in a week').fill('6');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('listitem').nth(5)).toContainText('Your week: 6 people');
  await page.reload();
  await expect(page.getByRole('listitem').nth(5)).toContainText('Your week: 6 people');
});

test('everybody who matches can be selected, and ? lists the keys', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  const all = page.getByRole('button', { name: /^Select all \d+/ });
  const count = /\d+/.exec((await all.textContent())!)![0];
  expect(Number(count)).toBeGreaterThan(50);
  await all.click();
  await expect(page.getByText(`${count} selected`)).toBeVisible();
  await page.keyboard.press('Shift+?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Next and previous of a list');
});

test('a past day is shown as it was, holds on every screen, and 30 February is refused', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.getByRole('button', { name: /^As of/ }).click();
  await page.getByRole('button', { name: 'A week ago' }).click();
  await expect(page).toHaveURL(/as_of=2026-11-17/);
  await expect(page.getByRole('button', { name: 'As of Tue 17 Nov, 23:59' })).toBeVisible();
  await expect(page.getByText('You look at a past day')).toBeVisible();
  await expect(page.getByText('Your week')).toHaveCount(0);
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Learners' }).click();
  await expect(page).toHaveURL(/as_of=2026-11-17/);
  await page.getByRole('group', { name: 'Learners' }).locator('tbody tr').first().getByRole('link').first().click();
  await expect(page.getByRole('heading', { name: 'Story' })).toBeVisible();
  await page.goto('/follow-ups?as_of=2026-11-17');
  await expect(page.getByText('this screen shows now')).toBeVisible();
  await page.goto('/watch?as_of=2026-02-30');
  await expect(page.getByRole('alert').filter({ hasText: 'is not a date' })).toContainText('Showing now instead');
  await page.goto('/watch?as_of=2026-08-01');
  await expect(page.getByText('Nobody to watch over')).toBeVisible();
});

test('a claim is settled in one look, or said not to be', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/watch?in=course:TTU');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.getByRole('link', { name: 'last 14 days' }).click();
  const claim = page.locator('#claim');
  await expect(claim.locator('strong').first()).toContainText(/visits?,|No visit|Cannot be settled/);
  await claim.getByLabel('From').fill('2026-11-20');
  await claim.getByLabel('To').fill('2026-11-10');
  await claim.getByRole('button', { name: 'Check' }).click();
  await expect(claim.getByRole('alert')).toContainText('lies before from');
  await page.getByRole('navigation', { name: 'Kinds' }).getByRole('link', { name: 'Visits' }).click();
  await expect(page).toHaveURL(/kinds=visit/);
  await expectAccessible(page);
});

test('whoever is away or never started stands on a list of their own, with what one does there', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');
  const parts = page.getByRole('navigation', { name: 'Parts' });
  const counted = async (name: RegExp) =>
    Number(/^\d+/.exec((await parts.getByRole('link', { name }).textContent())!)![0]);
  await parts.getByRole('link', { name: /never started/ }).click();
  await expect(page).toHaveURL(/part=never/);
  await expect(page.getByRole('listitem').first()).toContainText(/Never there in \d+ days/);
  await expectAccessible(page);
  await page.getByRole('button', { name: /^Write the welcome message to \d+/ }).click();
  await expect(page.getByLabel('Subject')).toHaveValue('Welcome to {{course}}');
  await page.getByRole('link', { name: 'Back without sending' }).click();
  await expect(page).toHaveURL(/part=never/);

  await parts.getByRole('link', { name: /away/ }).click();
  await expect(page.getByRole('listitem').first()).toContainText(/Away \d+ days/);
  const count = await counted(/away/);
  await page.getByRole('button', { name: 'Hand over…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Hand over' }).click();
  await expect(dialog.getByText('is missing')).toBeVisible();
  await dialog.getByLabel('What to look at').fill('Ring them');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Hand over' }).click();
  await expect(page.getByText(`${count} learners handed over`)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Taken back')).toBeVisible();

  await page.getByRole('button', { name: 'They have left…' }).click();
  await dialog.getByRole('button', { name: 'They have left' }).click();
  await expect(page.getByRole('heading', { name: 'Nobody is away' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).last().click();
  await expect(page.getByText('Enrolled again')).toBeVisible();
  await expect(page.getByRole('listitem').first()).toContainText(/Away \d+ days/);
  expect(await counted(/away/)).toBe(count);
});
