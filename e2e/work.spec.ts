import { readFileSync } from 'node:fs';
import { PORT, TOKEN } from './ports';
import { expect, expectAccessible, signIn, test } from './help';

test('which course needs somebody leads to its progress, where cells are marked, undone and written about', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'instructor');
  await page.getByRole('navigation', { name: 'Main' }).getByRole('link', { name: 'Courses' }).click();
  const course = page.getByRole('row', { name: /Hatchery Technician/ });
  await expect(course).toContainText('adrift');
  await course.getByRole('link', { name: 'Hatchery Technician' }).click();
  await expect(page.getByRole('heading', { name: 'Progress', exact: true })).toBeVisible();
  const grid = page.getByRole('grid', { name: 'Progress' });
  // Twenty rows stand on a page, and no more is drawn than is looked at.
  await expect.poll(() => grid.getByRole('rowheader').count()).toBeGreaterThanOrEqual(20);
  expect(await page.evaluate(() => document.querySelectorAll('*').length)).toBeLessThan(2000);

  const first = grid.getByRole('gridcell', { name: /: / }).first();
  await first.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await expect(grid.locator('[data-cell="1/1"]')).toBeFocused();
  await page.keyboard.press('End');
  const last = grid.locator('[data-cell^="1/"]:focus');
  await expect(last).toHaveAttribute('aria-label', /not started/);
  await page.keyboard.press('m');
  const dialog = page.getByRole('dialog', { name: 'Mark by hand' });
  await dialog.getByRole('button', { name: 'Mark' }).click();
  // Nothing is chosen beforehand.
  await expect(dialog.getByText('is missing')).toHaveCount(2);
  await dialog.getByRole('radio', { name: 'done', exact: true }).check();
  await dialog.getByLabel('Reason').fill('shown at the workshop');
  await dialog.getByRole('button', { name: 'Mark' }).click();
  await expect(page.getByText('1 item marked')).toBeVisible();
  const cell = grid.locator('[data-cell^="1/"][data-hand]');
  await expect(cell).toHaveAttribute('aria-label', /done by hand/);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(cell).toHaveCount(0);

  // A head selects who has not done its item; each gets a message with their own list.
  await page.keyboard.press('Escape');
  await grid.getByRole('columnheader', { name: /quiz/i }).last().click();
  const selection = page.getByRole('region', { name: 'Selected learners' });
  await expect(selection).toContainText('selected');
  await selection.getByRole('button', { name: /^Write to/ }).click();
  await expect(page).toHaveURL(/\/write\/\d+/);
  await expect(page.getByText('{{overdue_list}}').first()).toBeVisible();
});

test('work due: extended on the spot, written to with each one’s own list, on paper a page each', async ({ page }) => {
  await signIn(page, 'instructor');
  await page.goto('/courses/work-due?course=HAT');
  const rows = page.locator('tbody tr');
  const total = Number(
    /(\d+) assignments?/.exec((await page.getByText(/\d+ assignments? overdue/).textContent())!)![1],
  );
  const line = rows.first();
  const name = (await line.getByRole('link').first().textContent())!;
  await line.getByRole('button', { name: 'Extend…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Extend or excuse' });
  await dialog.getByLabel('Their own date, day').fill('24 Sep');
  await dialog.getByLabel('Reason').fill('ill');
  await dialog.getByRole('button', { name: 'Give' }).click();
  await expect(dialog.getByText(/an extension makes it later/)).toBeVisible();
  await dialog.getByLabel('Their own date, day').fill('15 Dec 2026');
  await dialog.getByLabel('Their own date, time').fill('12:00');
  await dialog.getByRole('button', { name: 'Give' }).click();
  await expect(page.getByText(`${total - 1} assignment`)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(`${total} assignment`)).toBeVisible();
  expect(name.length).toBeGreaterThan(3);
  await page.getByRole('link', { name: 'One page for each learner' }).click();
  await expect(page.getByText('a page each')).toBeVisible();
  await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible();
});

test('a row far down a list that loads as one scrolls changes at once, and no row stands there twice', async ({
  page,
}) => {
  await signIn(page, 'lead');
  await page.goto('/courses/work-due');
  const rows = page.locator('tbody tr');
  const loaded = await rows.count();
  await expect(async () => {
    await rows.last().scrollIntoViewIfNeeded();
    expect(await rows.count()).toBeGreaterThan(loaded + 50);
  }).toPass();
  const assignments = async () =>
    (await rows.allInnerTexts()).map((text) => text.split('\n').slice(0, 3).join(' ').replaceAll('\t', ' '));
  const before = await assignments();
  expect(new Set(before).size).toBe(before.length);
  const far = rows.nth(loaded + 20);
  await far.getByRole('cell').nth(4).click();
  await far.getByRole('button', { name: 'Extend…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Extend or excuse' });
  await dialog.getByLabel('Their own date, day').fill('15 Dec 2026');
  await dialog.getByLabel('Their own date, time').fill('12:00');
  await dialog.getByLabel('Reason').fill('ill');
  await dialog.getByRole('button', { name: 'Give' }).click();
  await expect.poll(async () => (await assignments()).includes(before[loaded + 20])).toBe(false);
  const after = await assignments();
  expect(new Set(after).size).toBe(after.length);
  expect(after.slice(0, loaded + 20)).toEqual(before.slice(0, loaded + 20));
  expect(after[loaded + 20]).toBe(before[loaded + 21]);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => (await assignments()).slice(0, loaded + 30)).toEqual(before.slice(0, loaded + 30));
});

test('one learner in one course: items, a score by hand, the next of the list, and what they would see', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'instructor');
  await page.goto('/courses/grades?course=HAT');
  const grid = page.getByRole('grid', { name: 'Grades' });
  const graded = grid.locator('[data-kind="secure"]').first();
  await graded.focus();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/learners\/.*\/courses\/HAT\?.*item=/);
  await expect(page.getByText(/1 of \d+|· \d+ of \d+ ·/).first()).toBeVisible();
  await expect(page.getByText('if missing work scores 0')).toBeVisible();
  await expect(page.getByRole('heading', { name: 'Pace against plan' })).toBeVisible();
  await page.getByRole('link', { name: 'Show as table' }).click();
  await expect(page.getByRole('columnheader', { name: 'Planned' })).toBeVisible();
  await expectAccessible(page);

  const work = page.locator('tr[data-chosen]');
  await work.getByRole('button', { name: /^Change:/ }).click();
  await page.getByRole('menuitem', { name: 'Give a score…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Give a score' });
  await dialog.getByLabel('Score', { exact: true }).fill('7');
  await dialog.getByLabel('Why').fill('on paper');
  await dialog.getByRole('button', { name: 'Give' }).click();
  await expect(dialog).toBeHidden();
  await expect(page.getByText('score given here').first()).toBeVisible();
  await page.goto('/courses/grades/changes?course=HAT');
  await expect(page.getByRole('row', { name: /on paper/ })).toContainText('Jory Kestle');
  await page.goBack();

  const heading = page.getByRole('heading', { level: 1 });
  const name = await heading.textContent();
  // The page takes keys once it is there again.
  await expect(async () => {
    await page.keyboard.press('ArrowRight');
    await expect(heading).not.toHaveText(name!, { timeout: 3000 });
  }).toPass();
  await page.getByRole('link', { name: 'What the learner would see' }).click();
  const main = page.getByRole('main').or(page.locator('body'));
  await expect(main.first()).not.toContainText(/drift \d|slipping|adrift/);
  // What every learner of the course is shown is set among the course's settings, and holds here.
  const shown = page.url();
  await expect(page.getByRole('columnheader', { name: 'Time' })).toBeVisible();
  await page.getByRole('link', { name: 'Choose what every learner of HAT is shown' }).click();
  await expect(page.getByRole('heading', { name: 'Settings', level: 1 })).toBeVisible();
  for (const [is, stands] of [
    ['no', /^weights of categories, scores in per cent, the three means and feedback$/],
    ['yes', /feedback and minutes spent$/],
  ] as const) {
    await page.getByRole('button', { name: 'Change what learners are shown' }).click();
    const form = page.getByRole('dialog', { name: 'What learners are shown: HAT' });
    await form.getByLabel('Show minutes spent').selectOption(is);
    await form.getByRole('button', { name: 'Save' }).click();
    await expect(
      page
        .getByRole('row', { name: /What learners are shown/ })
        .getByRole('cell')
        .first(),
    ).toHaveText(stands);
    if (is === 'no') {
      await page.goto(shown);
      await expect(page.getByRole('columnheader', { name: 'Score' })).toBeVisible();
      await expect(page.getByRole('columnheader', { name: 'Time' })).toHaveCount(0);
      await page.goto('/courses/settings?course=HAT');
    }
  }
});

test('a changed item says whom it concerns; questions say who gave which answer', async ({ page }) => {
  await signIn(page, 'instructor');
  await page.goto('/courses/items?course=HAT');
  await page
    .getByRole('row', { name: /Tank log: quiz/ })
    .getByRole('button', { name: 'Change…' })
    .click();
  const dialog = page.getByRole('dialog', { name: 'Tank log: quiz' });
  await dialog.getByLabel('Done when').fill('handed in');
  await dialog.getByRole('button', { name: 'See what that changes' }).click();
  await expect(dialog.getByText(/is not made of opened/)).toBeVisible();
  await dialog.getByLabel('Done when').fill('handed_in;score>=90%');
  await dialog.getByRole('button', { name: 'See what that changes' }).click();
  await expect(page.getByText(/learners have worked on it/)).toBeVisible();
  await page.getByRole('button', { name: 'Change it' }).click();
  await expect(page.getByText('Item changed')).toBeVisible();
  await expect(page.getByRole('row', { name: /Tank log: quiz/ })).toContainText('90 % or more');

  await page.goto('/courses/questions?course=HAT');
  const answer = page.locator('summary').first();
  await answer.click();
  await page.locator('details[open] a').first().click();
  await expect(page.getByRole('region', { name: 'One learner’s paper' })).toBeVisible();
});

test('the API and files give what the screens show', async ({ page }) => {
  await signIn(page, 'lead');
  const { request } = page.context();
  const headers = { authorization: `Bearer ${TOKEN}` };
  const ask = async (path: string) =>
    (await request.get(`http://127.0.0.1:${PORT}/api/v1/${path}`, { headers })).json();
  const { data: courses } = await ask('courses');
  const hat = courses.find(({ course }: { course: string }) => course === 'HAT');
  expect(Object.keys(hat)).toEqual(
    expect.arrayContaining([
      'title',
      'starts_on',
      'ends_on',
      'enrolled',
      'active_7_days',
      'never',
      'bands',
      'attendance_rate',
      'progress',
      'overdue',
      'to_grade',
    ]),
  );
  const { data: rows, total } = await ask('progress?course=HAT&limit=1000');
  expect(rows).toHaveLength(total);
  expect(Object.values(rows[0].items)[0]).toMatchObject({ state: expect.any(String), left: expect.any(Array) });
  const { total: toGrade, data: oldest } = await ask('to-grade?course=HAT');
  expect(toGrade).toBe(hat.to_grade);
  expect(oldest[0].age_days).toBeGreaterThanOrEqual(oldest.at(-1).age_days);
  expect(
    (await ask('work-due?course=HAT&state=overdue&limit=1')).total +
      (await ask('work-due?course=HAT&state=started_not_handed_in&limit=1')).total,
  ).toBeGreaterThanOrEqual(hat.overdue);
  expect((await ask(`history?learner=${rows[0].learner_id}&course=HAT`)).data[0]).toHaveProperty('on_graded_work');
  const csv = await (
    await request.get(`http://127.0.0.1:${PORT}/api/v1/grades?course=HAT&format=csv`, { headers })
  ).text();
  expect(csv.split('\r\n')[0]).toContain('if_missing_scores_0');
  await page.goto('/courses/progress?course=HAT');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV' }).click();
  expect(readFileSync(await (await download).path(), 'utf8')).toContain('HAT-01-1');
});
