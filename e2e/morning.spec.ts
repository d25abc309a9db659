import type { Page } from '@playwright/test';
import { INBOX_PORT, NOW } from './ports';
import { dropFile, expect, expectAccessible, signIn, takeDropped, test } from './help';

async function mails(page: Page): Promise<{ to: string; subject: string; text: string }[]> {
  return (await page.request.get(`http://127.0.0.1:${INBOX_PORT}/messages.json`)).json();
}

test('sign-in → import → Watch → learner → write → arrived → on record', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');

  // A learner nobody has seen is enrolled, and an event of somebody unknown comes along.
  await page.getByRole('link', { name: 'Set-up' }).click();
  const bringIn = async (name: string, text: string) => {
    await dropFile(page, name, text);
    return takeDropped(page, name);
  };
  await bringIn(
    'newcomers.csv',
    `learner_id,given_name,family_name,email,phone,organisation,course,group,enrolled_on
L99001,Zelda,Arkwright,zelda@learner.example,+44 1632 960999,Carrow Tidal,TTU,A,2026-09-21
`,
  );
  const log = await bringIn(
    'clicks.csv',
    `time,learner_id,course,item_id,action
2026-10-01T09:00:00Z,L99001,TTU,TTU-01-1,opened
2026-10-02T09:00:00Z,L99001,TTU,TTU-01-2,played
2026-10-03T09:00:00Z,NOBODY,TTU,TTU-01-2,played
`,
  );
  await expect(log.getByRole('cell').nth(3)).toHaveText('2');
  await expect(log.getByRole('cell').nth(6)).toHaveText('1');
  const rejects = page.getByRole('region', { name: 'Rejected rows of the newest import' });
  await expect(rejects).toContainText('no learner or member of staff has the id NOBODY');
  await expectAccessible(page);
  const download = page.waitForEvent('download');
  await rejects.getByRole('link', { name: 'download all of them' }).click();
  expect((await download).suggestedFilename()).toMatch(/^rejected-\d+\.csv$/);

  // The Watch shows them among those who are away, and for how long.
  await page.goto('/watch?in=course:TTU');
  await page.getByRole('navigation', { name: 'Parts' }).getByRole('link', { name: /away/ }).click();
  const row = page.getByRole('listitem').filter({ hasText: 'Zelda Arkwright' });
  await expect(row).toContainText('Away 53 days');
  await row.getByRole('button').click();
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  await expect(panel).toContainText(/adrift, drift \d+/);
  await expect(panel.getByRole('link', { name: '+44 1632 960999' })).toHaveAttribute('href', 'tel:+441632960999');
  await expect(page).toHaveURL(/person=L99001/);

  // Their page, with each visit opening to its events.
  await panel.getByRole('link', { name: 'Open page' }).click();
  await expect(page.getByRole('heading', { name: 'Zelda Arkwright' })).toBeVisible();
  await page
    .getByRole('listitem')
    .filter({ hasText: 'Fri 2 Oct' })
    .getByRole('link', { name: /^Visit of/ })
    .click();
  await expect(page.getByRole('cell', { name: 'The stream: film' })).toBeVisible();
  await expectAccessible(page);

  // Write, with their own facts; it arrives and is on record.
  await page.getByRole('button', { name: 'Write', exact: true }).click();
  await page.getByLabel('Subject').fill('Your next step in {{course}}');
  await page.getByRole('textbox', { name: 'Text' }).fill('Hello ');
  await page.getByRole('textbox', { name: 'Text' }).press('End');
  await page.getByRole('button', { name: 'given name', exact: true }).click();
  const preview = page.getByRole('region', { name: 'Preview' });
  await expect(preview).toContainText('Hello Zelda');
  await expect(preview).toContainText('Your next step in Tidal Turbine Upkeep');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Send 1 message' }).click();
  await expect(page.getByText('1 message on the way')).toBeVisible();
  await expect
    .poll(async () => (await mails(page)).filter((mail) => mail.to === 'zelda@learner.example'), { timeout: 30_000 })
    .toMatchObject([
      { subject: 'Your next step in Tidal Turbine Upkeep', text: expect.stringContaining('Hello Zelda') },
    ]);
  await page.goto('/learners/L99001');
  // It stands first on the page, and in the story.
  const tried = page.getByRole('group', { name: 'What has been tried' });
  await expect(tried).toContainText('Your next step in Tidal Turbine Upkeep');
  await expect(page.locator('#story')).toContainText('Your next step in Tidal Turbine Upkeep');
  // While one waits for what it brings, she gives up her place.
  await page.goto('/watch?in=course:TTU&part=contacted');
  await expect(page.getByRole('listitem').filter({ hasText: 'Zelda Arkwright' })).toContainText('Wrote today');
  await page.goto('/follow-ups/messages?state=sent');
  await expect(page.getByRole('row').filter({ hasText: 'Zelda Arkwright' })).toContainText('sent');
  await expectAccessible(page);

  // She comes back within the week, and the record says so.
  await page.goto('/set-up/data');
  const later = new Date(Date.parse(NOW) + 60_000).toISOString();
  await bringIn('back.csv', `time,learner_id,course,item_id,action\n${later},L99001,TTU,TTU-01-3,downloaded\n`);
  await page.goto('/learners/L99001');
  await expect(page.getByText('came back').first()).toBeVisible();
});

test('several selected people: one text, a stop for a missing value, a warning, undo', async ({ page }) => {
  await signIn(page, 'mentor');
  // Those one waits for: some were written to lately, and some were never there.
  await page.goto('/watch?part=contacted&band=2');
  await page.getByRole('checkbox', { name: 'Select everybody on this page' }).check();
  await page.getByRole('button', { name: /^Write to \d/ }).click();
  await page.getByLabel('Subject').fill('A word');
  await page.getByRole('textbox', { name: 'Text' }).fill('Last here {{last_access}}.');
  await expect(page.getByText(/^\d+ messages? (is|are) stopped and will not go/)).toBeVisible();
  await expect(page.getByText('has no value for last_access').first()).toBeVisible();
  await page.getByRole('textbox', { name: 'Text' }).fill('Hello {{nick_name}}');
  await expect(page.getByText('has a field that does not exist: nick_name')).toBeVisible();
  await page.getByRole('textbox', { name: 'Text' }).fill('Last here {{last_access}}.');
  const all = page.getByRole('checkbox', { name: /all the same/ });
  if (await all.isVisible()) await all.check();
  await page.getByRole('button', { name: /^Send/ }).click();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Taken back')).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Text' })).toHaveValue('Last here {{last_access}}.');
});

test('the keyboard goes through the list', async ({ page }) => {
  await signIn(page, 'mentor');
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  await expect(panel).toContainText('1 of');
  // The first leads into the list.
  for (let i = 0; i < 3; i += 1) await page.keyboard.press('ArrowDown');
  await expect(panel).toContainText('3 of');
  await page.keyboard.press('End');
  await expect(panel).toContainText('30 of');
  await page.keyboard.press('Home');
  await expect(panel).toContainText('1 of');
  await page.keyboard.press('ArrowDown');
  await expect(panel).toContainText('2 of');
  await page.keyboard.press('Space');
  await expect(page.getByText('1 selected', { exact: true })).toBeVisible();
  const name = await panel.getByRole('heading').first().textContent();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { level: 1, name: name! })).toBeVisible();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText(/· 3 of/)).toBeVisible();
  await page.getByRole('link', { name: 'Back to the Watch' }).click();
  await expect(page).toHaveURL(/\/watch$/);
});

test('a dialog that closes leaves one in its row: the next arrow goes on from there', async ({ page }) => {
  await signIn(page, 'mentor');
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  await expect(panel).toContainText('1 of');
  // From the box of a row, and without waiting: the digit finds the dialog.
  await page.getByRole('list', { name: 'Learners in order of need' }).getByRole('checkbox').first().focus();
  const called = await panel.getByRole('heading').first().textContent();
  await page.keyboard.press('l');
  await page.keyboard.press('1');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/^Call to .*: spoke/)).toBeVisible();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  // Whoever was called has gone, and the cursor to the next; the undo leads back to them.
  await expect(panel).not.toContainText(called!);
  await page.keyboard.press('u');
  await expect(page.getByText('Call taken back')).toBeVisible();
  await expect(panel).toContainText(called!);
  for (const [key, expected] of [
    ['n', '2 of'],
    ['f', '3 of'],
    ['s', '4 of'],
  ]) {
    await page.keyboard.press(key);
    await expect(page.getByRole('dialog')).toBeVisible();
    // No other dialog opens above it.
    await page.keyboard.press('Escape');
    await page.keyboard.press('ArrowDown');
    await expect(panel).toContainText(expected);
  }
});

test('letters are the verbs’ initials, and can be switched off for oneself', async ({ page }) => {
  await signIn(page, 'mentor');
  await expect(page.getByRole('complementary', { name: 'The learner under the cursor' })).toContainText('1 of');
  for (const [key, title] of [
    ['l', /^Call to/],
    ['n', /^Note on/],
    ['s', /^Set .* aside/],
    ['f', /^Follow up/],
  ] as const) {
    await page.keyboard.press(key);
    await expect(page.getByRole('dialog', { name: title })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
  }
  // A box that was just ticked with the mouse is no field that one types in; the search is one.
  await page
    .getByRole('checkbox', { name: /^Select / })
    .nth(1)
    .check();
  await page.keyboard.press('f');
  await expect(page.getByRole('dialog', { name: /^Follow up/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  const search = page.getByPlaceholder(/^Find a learner/);
  await page.keyboard.press('/');
  await expect(search).toBeFocused();
  await page.keyboard.type('wlnsf');
  await expect(search).toHaveValue('wlnsf');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.goto('/account');
  await page.getByRole('switch', { name: /Single letters/ }).click();
  await expect(page.getByRole('switch', { name: /Single letters/ })).not.toBeChecked();
  await page.goto('/watch');
  await page.keyboard.press('n');
  await page.keyboard.press('Shift+?');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await expect(page.getByText('1 selected', { exact: true })).toBeVisible();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.goto('/account');
  await page.getByRole('switch', { name: /Single letters/ }).click();
  await expect(page.getByRole('switch', { name: /Single letters/ })).toBeChecked();
});

test('a part of the caseload holds in the link', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.getByRole('button', { name: /^Caseload/ }).click();
  await page.getByRole('menuitem', { name: /^Net and Rope Work \d/ }).click();
  await expect(page).toHaveURL(/in=course/);
  await expect(page.getByRole('button', { name: 'Caseload: Net and Rope Work' })).toBeVisible();
  const rows = page.getByRole('list', { name: 'Learners in order of need' }).getByRole('listitem');
  for (const text of await rows.allTextContents()) expect(text).toContain('Net and Rope Work');
});

test('opened from another part of the Watch, the page leads to the next of that part', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/watch?part=never');
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  await expect(panel).toContainText('1 of');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/ · 1 of \d+ · /)).toBeVisible();
});

test('narrowed to a course, the panel shows that course alone for everybody', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/watch?in=course:NET');
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  const courses = async () =>
    new Set((await panel.innerText()).match(/Net and Rope Work|Hatchery Technician|Dry-Dock \w+|Small-Boat \w+/g));
  await expect(panel).toContainText('1 of');
  for (let i = 0; i < 8; i += 1) {
    await page.keyboard.press('ArrowDown');
    await expect(panel).toContainText(`${i + 1} of`);
    expect([...(await courses())]).toEqual(['Net and Rope Work']);
  }
});
