import { MEETING_PORT } from './ports';
import { expect, expectAccessible, dropFile, signIn, takeDropped, test } from './help';

test('a weekly series is added, one is changed, another called off, and all of it is undone or said', async ({
  page,
}) => {
  await signIn(page, 'instructor');
  await page
    .getByRole('navigation', { name: 'Main' })
    .getByRole('link', { name: /^Sessions/ })
    .click();
  await expect(page.getByRole('heading', { name: 'Mon 23 Nov to Sun 29 Nov' })).toBeVisible();
  await page.getByRole('button', { name: 'Add sessions…' }).click();
  const form = page.getByRole('dialog', { name: 'Add sessions' });
  await form.getByLabel('For').selectOption('SBE/Tue');
  await form.getByLabel('Title').fill('Question hour');
  await form.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(form.getByText('is missing').first()).toBeVisible();
  await form.getByLabel('every week').check();
  await form.getByLabel('Day, or the first of them').fill('24 Nov');
  await form.getByLabel('Until, this day included').fill('15 Dec');
  await form.getByRole('group', { name: 'On these days' }).getByText('Thu').click();
  await form.getByLabel('Begins').fill('6 pm');
  await form.getByLabel('Ends').fill('19:00');
  await form.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByText('3 sessions added')).toBeVisible();
  const first = page.getByRole('link', { name: /18:00–19:00.*Question hour 1/ });
  await first.click();
  await expect(page.getByRole('heading', { name: 'Question hour 1' })).toBeVisible();
  await page.getByRole('button', { name: 'Change…' }).click();
  const change = page.getByRole('dialog', { name: 'Change the session' });
  await change.getByLabel('this and the later ones').check();
  await change.getByLabel('Begins').fill('18:30');
  await change.getByLabel('Ends').fill('19:30');
  await change.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('3 sessions changed')).toBeVisible();
  // It lies in the way of that evening's session of the other group? No: only of its own group or instructor.
  await page.getByRole('button', { name: 'Cancel…' }).click();
  const why = page.getByRole('dialog', { name: 'Cancel the session' });
  await why.getByLabel('Why').fill('storm');
  await why.getByRole('button', { name: 'Cancel the session' }).click();
  await expect(page.getByText('Cancelled: storm. It counts for nobody.')).toBeVisible();
  await page.getByRole('button', { name: 'Reinstate' }).click();
  await expect(page.getByText('Cancelled: storm')).toBeHidden();
  await page.goto('/sessions/list?from=2026-11-25');
  const row = (title: string) => page.getByRole('row', { name: new RegExp(title) });
  await row('Question hour 2').getByRole('checkbox').check();
  await row('Question hour 3').getByRole('checkbox').check();
  await page.getByRole('group', { name: 'The selected' }).getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByText('2 sessions deleted')).toBeVisible();
  await expect(row('Question hour 2')).toBeHidden();
  await page.getByRole('button', { name: 'Undo' }).last().click();
  await expect(row('Question hour 2')).toBeVisible();
});

test('the roll: all at once, the exceptions by keys, a remark, and without a connection', async ({ page, context }) => {
  await signIn(page, 'mentor');
  await page.goto('/sessions/list?roll=to_take&course=NET');
  const link = page.getByRole('row').nth(1).getByRole('link');
  const title = await link.textContent();
  await link.click();
  await expect(page.getByRole('heading', { name: title! })).toBeVisible();
  await page.getByRole('navigation', { name: 'Session', exact: true }).getByRole('link', { name: 'Roll' }).click();
  await page.getByRole('button', { name: 'All present' }).click();
  await expect(page.getByText(/(\d+) of \1 marked · Every mark is saved/)).toBeVisible();
  const people = page
    .getByRole('list')
    .filter({ has: page.getByRole('radiogroup') })
    .getByRole('listitem');
  await people.first().focus();
  await page.keyboard.press('ArrowDown');
  await expect(people.nth(1)).toBeFocused();
  await page.keyboard.press('4');
  await expect(people.nth(1).getByRole('radio', { name: 'absent' })).toBeChecked();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('2');
  await expect(people.nth(2).getByRole('radio', { name: 'late' })).toBeChecked();
  await page.keyboard.press('u');
  await expect(people.nth(2).getByRole('radio', { name: 'present' })).toBeChecked();
  await people
    .nth(1)
    .getByRole('button', { name: /^Remark on/ })
    .click();
  await people.nth(1).getByRole('textbox').fill('at sea');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Every mark is saved')).toBeVisible();

  await context.setOffline(true);
  await people.nth(3).getByRole('radio', { name: 'partial' }).click();
  await expect(page.getByText(/1 mark: Saved on this device/)).toBeVisible();
  await context.setOffline(false);
  await expect(page.getByText('Every mark is saved')).toBeVisible();
  await page.reload();
  await expect(people.nth(3).getByRole('radio', { name: 'partial' })).toBeChecked();
  await expect(people.nth(1).getByRole('radio', { name: 'absent' })).toBeChecked();
  await expect(people.nth(1)).toContainText('at sea');
  await expect(page.getByText(/^Every change of a mark/)).toBeVisible();
});

test('two at one roll: what a colleague marked is shown, and a person chooses', async ({ page, browser }) => {
  await signIn(page, 'instructor');
  await page.goto('/sessions/HAT-A-10/roll');
  const other = await browser.newContext();
  const colleague = await other.newPage();
  await signIn(colleague, 'mentor');
  await colleague.goto('/sessions/HAT-A-10/roll');
  const mark = (who: typeof page, name: string) => who.getByRole('radiogroup').first().getByRole('radio', { name });
  await mark(colleague, 'late').click();
  await expect(colleague.getByText('Every mark is saved')).toBeVisible();
  await mark(page, 'absent').click();
  const conflict = page.getByRole('alert').filter({ hasText: 'that a colleague gave meanwhile' });
  await expect(conflict).toContainText(/Mair Tolland says late .* you say absent/);
  await expect(mark(page, 'late')).toBeChecked();
  await conflict.getByRole('button', { name: 'Mine' }).click();
  await expect(mark(page, 'absent')).toBeChecked();
  await expect(page.getByText('Every mark is saved')).toBeVisible();
  await other.close();
});

test('a meeting that is on: lines grow by themselves, a stranger is settled, and its class list is right now’s', async ({
  page,
}) => {
  await signIn(page, 'instructor');
  await page.goto('/sessions/HAT-A-10');
  await fetch(`http://127.0.0.1:${MEETING_PORT}`, {
    method: 'POST',
    body: 'deed=resume',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
  });
  await expect(page.getByText(/On now · [1-9]\d* of \d+ in/)).toBeVisible();
  await fetch(`http://127.0.0.1:${MEETING_PORT}`, {
    method: 'POST',
    body: 'deed=pause',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
  });
  const names = page.getByRole('region', { name: 'Names nobody is known for' });
  const stranger = names.getByRole('listitem').filter({ hasText: 'Front desk' });
  await stranger.getByRole('button', { name: 'Not a learner' }).click();
  await expect(page.getByText('Not learners: Front desk')).toBeVisible();
  await expectAccessible(page);
  await page.goto('/courses/now?in=group:HAT/A');
  await expect(page.getByRole('region', { name: 'Class list' })).toContainText(/Week 10 live · \d+ of \d+ in since/);
  await page.goto('/sessions/HAT-A-10');
  await names.getByRole('button', { name: 'Open again' }).click();
  await expect(stranger).toBeVisible();
});

test('suggestions are accepted one by one and all at once, and taken back', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/sessions/list?roll=to_take&course=SBE');
  await page.getByRole('row').nth(1).getByRole('link').click();
  const table = page.getByRole('group', { name: 'Presence' });
  const accept = page.getByRole('button', { name: /^Accept \d+ suggestion/ });
  await accept.click();
  await expect(page.getByText('Everybody has a mark.')).toBeVisible();
  await expect(table.getByText('as suggested').first()).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(accept).toBeVisible();
  await table.getByRole('button', { name: 'Min', exact: true }).click();
  await expect(table.getByRole('columnheader', { name: 'Min' })).toHaveAttribute('aria-sort', 'descending');
});

test('a class checks itself in, without a script, and a second learner on one device is let in by hand', async ({
  page,
  browser,
}) => {
  await signIn(page, 'instructor');
  await page.goto('/sessions/HAT-A-10');
  const people = page.getByRole('group', { name: 'Presence' }).getByRole('row').getByRole('link');
  const ids = (
    await people.evaluateAll((links) => links.map((link) => link.getAttribute('href')!.split('/').at(-1)!))
  ).slice(-2);
  await page.goto('/sessions/HAT-A-10/check-in');
  const digits = async () => (await page.getByText(/^\d{3} \d{3}$/).textContent())!.replace(' ', '');
  const telephone = await browser.newContext({ javaScriptEnabled: false, viewport: { width: 320, height: 480 } });
  const door = await telephone.newPage();
  const come = async (id: string, code: string) => {
    await door.goto('/in/HAT-A-10');
    await door.getByLabel('Your learner id, e-mail or name').fill(id);
    await door.getByLabel('The six digits on the screen').fill(code);
    await door.getByRole('button', { name: 'I am here' }).click();
  };
  await come(ids[0], '000000');
  await expect(door.getByRole('alert')).toContainText('That did not work');
  await come('L99999', await digits());
  await expect(door.getByRole('alert')).toContainText('That did not work');
  await come(ids[0].toLowerCase(), await digits());
  await expect(door.getByRole('status')).toHaveText('You are in, 09:10, late');
  await expect(page.getByText(/^1 of \d+ in$/)).toBeVisible();
  await come(ids[1], await digits());
  await expect(door.getByRole('alert')).toContainText('This device has checked somebody in already');
  const refused = page.getByRole('region', { name: 'Refused' });
  await expect(refused).toBeVisible();
  await refused.getByRole('button', { name: /^Let .* in$/ }).click();
  await expect(page.getByText(/^2 of \d+ in$/)).toBeVisible();
  await telephone.close();
});

test('attendance over time: who missed the last two is found, selected and written to', async ({ page }) => {
  await signIn(page, 'instructor');
  await page.goto('/sessions/attendance?in=course:HAT&missed=2&sort=-missed');
  await expect(page.getByText('Missed the last 2 sessions or more')).toBeVisible();
  const grid = page.getByRole('grid', { name: 'Attendance' });
  await expect(grid.getByText(/^\d missed$/).first()).toBeVisible();
  await grid
    .getByRole('gridcell', { name: /absent$/ })
    .last()
    .focus();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Home');
  await grid.getByRole('checkbox', { name: /^Select everybody/ }).check();
  await page.getByRole('region', { name: 'Selected learners' }).getByRole('button', { name: 'Write' }).click();
  await expect(page).toHaveURL(/\/write\//);
  await expect(page.getByRole('textbox', { name: 'Text' })).toHaveValue(/\{\{missed_sessions\}\}/);
  await expect(page.getByText(/you have missed Week \d+/).first()).toBeVisible();
});

test('a calendar address is made, read without signing in, and revoked', async ({ page, request }) => {
  await signIn(page, 'mentor');
  await page.goto('/sessions/calendars');
  await page.getByRole('button', { name: 'Make an address' }).click();
  const address = await page.getByRole('dialog').locator('code, pre').first().textContent();
  const read = await request.get(address!);
  expect(read.headers()['content-type']).toContain('text/calendar');
  expect(await read.text()).toContain('UID:HAT-A-10@lee-shore');
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  await page.getByRole('button', { name: /^Revoke/ }).click();
  await expect(page.getByText('You have no such address yet.')).toBeVisible();
  expect((await request.get(address!)).status()).toBe(404);
});

test('a calendar file is previewed and brought in', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/data');
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'BEGIN:VEVENT',
    'UID:fair',
    'SUMMARY:Harbour fair',
    'DTSTART;TZID=Europe/Dublin:20261205T100000',
    'DURATION:PT3H',
    'RRULE:FREQ=WEEKLY;COUNT=2',
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ];
  const file = await dropFile(page, 'fair.ics', lines.join('\r\n'));
  await expect(file).toContainText('Some events name no course');
  await file.getByLabel('The calendar is of').selectOption('NET/A');
  await expect(file).toContainText('2 rows: 2 will be taken');
  await expect(file).toContainText('Sat 12 Dec, 10:00: Harbour fair, NET/A');
  await expect(await takeDropped(page, 'fair.ics')).toContainText('2');
  await page.goto('/sessions?in=group:NET/A&week=2026-12-05');
  await expect(page.getByText('Harbour fair')).toBeVisible();
});

test('at 390 px the roll is taken with one thumb', async ({ browser }) => {
  const context = await browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true });
  const page = await context.newPage();
  await signIn(page, 'instructor');
  await page.goto('/sessions/HAT-A-08/roll');
  const choice = page.getByRole('radiogroup').nth(2).getByRole('radio', { name: 'late' });
  const box = (await choice.boundingBox())!;
  expect(box.height).toBeGreaterThanOrEqual(44);
  expect(box.width).toBeGreaterThanOrEqual(60);
  await choice.tap();
  await expect(choice).toBeChecked();
  await expect(page.getByText('Every mark is saved')).toBeVisible();
  await context.close();
});
