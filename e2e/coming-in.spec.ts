/** Coming in: by an invitation, with a second factor, by a passkey, and programs by a token of one's own. */
import { generateSync } from 'otplib';
import type { Page } from '@playwright/test';
import { PASSWORD, PEOPLE, expect, expectAccessible, signIn, test } from './help';
import { INBOX_PORT, PORT } from './ports';

/** A passkey needs a name in the address, not a number. */
const NAMED = `http://localhost:${PORT}`;
const ALDO = 'aldo.finch@saltholm.example';

/** What an app shows now, or some steps from now. */
const codeOf = (secret: string, steps = 0) =>
  generateSync({
    strategy: 'totp',
    secret,
    digits: 6,
    period: 30,
    epoch: Math.floor(Date.now() / 1000) + 30 * steps,
  });

/** The link of the newest mail of some subject to somebody. */
async function linkOf(page: Page, to: string, subject: string): Promise<string> {
  const read = async () => {
    const mails: { to: string; subject: string; text: string }[] = await (
      await page.request.get(`http://127.0.0.1:${INBOX_PORT}/messages.json`)
    ).json();
    const mail = mails.find((one) => JSON.stringify(one.to).includes(to) && one.subject === subject);
    return /\/sign-in\/password\/[\w-]+/.exec(mail?.text ?? '')?.[0] ?? '';
  };
  await expect.poll(read, { timeout: 20_000 }).not.toBe('');
  return read();
}

async function fillIn(page: Page, email: string, password: string, root = ''): Promise<void> {
  await page.goto(`${root}/sign-in`);
  await page.getByLabel('E-mail').fill(email);
  await page.getByRole('textbox', { name: 'Password' }).fill(password);
  await page.getByRole('button', { name: 'Sign in', exact: true }).click();
}

test('an invitation lets somebody in who came by file, a forgotten password is set anew', async ({ page, browser }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/staff');
  const row = page.getByRole('row').filter({ hasText: ALDO });
  await expect(row).toContainText('no password yet');
  await row.getByRole('button', { name: 'Change' }).click();
  await page.getByRole('menuitem', { name: 'Invite by mail' }).click();
  await expect(page.getByText('Aldo Finch is invited by mail')).toBeVisible();
  const link = await linkOf(page, ALDO, 'Come in to Lee Shore');
  await expect(async () => {
    await page.reload();
    await expect(row).toContainText('invited today, until', { timeout: 1000 });
  }).toPass();

  const context = await browser.newContext();
  const own = await context.newPage();
  await own.goto(link);
  await expect(own.getByRole('heading', { name: 'Come in, Aldo Finch' })).toBeVisible();
  await expect(own.getByLabel('E-mail')).toHaveValue(ALDO);
  await expectAccessible(own);
  await own.getByRole('textbox', { name: 'Password' }).fill('short');
  await own.getByRole('button', { name: 'Set the password' }).click();
  await expect(own.getByText('needs at least 12 characters')).toBeVisible();
  await own.getByRole('textbox', { name: 'Password' }).fill('a password of my own');
  await own.getByRole('button', { name: 'Set the password' }).click();
  await expect(own.getByText('Your password is set')).toBeVisible();
  await own.goto(link);
  await expect(own.getByRole('heading', { name: 'This link is not good any more' })).toBeVisible();
  await fillIn(own, ALDO, 'a password of my own');
  await expect(own).toHaveURL(/\/watch/);

  const forgetful = await (await browser.newContext()).newPage();
  await forgetful.goto('/sign-in');
  await forgetful.getByRole('link', { name: 'Forgotten your password?' }).click();
  await expect(forgetful.getByRole('heading', { name: 'Forgotten your password?' })).toBeVisible();
  await forgetful.getByLabel('E-mail').fill(ALDO);
  await forgetful.getByRole('button', { name: 'Mail me a link' }).click();
  await expect(forgetful.getByText('If there is an account with that e-mail')).toBeVisible();
  await expectAccessible(forgetful);
  await forgetful.goto(await linkOf(page, ALDO, 'A new password for Lee Shore'));
  await forgetful.getByRole('textbox', { name: 'Password' }).fill('another of my own');
  await forgetful.getByRole('button', { name: 'Set the password' }).click();
  await fillIn(forgetful, ALDO, 'another of my own');
  await expect(forgetful).toHaveURL(/\/watch/);
  // What was signed in with the old one has ended.
  await own.goto('/watch');
  await expect(own).toHaveURL(/\/sign-in/);
  await context.close();
  await forgetful.context().close();
});

test('a code of an app, a recovery code, and what a role is asked for', async ({ page, browser }) => {
  await signIn(page, 'lead');
  await page.goto('/account');
  await page.getByRole('button', { name: 'Set up an app…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Codes of an app' });
  const secret = (await dialog.locator('code').textContent())!;
  await dialog.getByRole('textbox', { name: 'The password you have now' }).fill(PASSWORD);
  await dialog.getByLabel('The six digits it shows').fill('000000');
  await dialog.getByRole('button', { name: 'Set it up' }).click();
  await expect(dialog.getByText('is not right')).toBeVisible();
  await dialog.getByLabel('The six digits it shows').fill(codeOf(secret));
  await dialog.getByRole('button', { name: 'Set it up' }).click();
  const codes = page.getByRole('list', { name: 'Recovery codes' }).getByRole('listitem');
  await expect(codes).toHaveCount(10);
  const paper = await codes.allTextContents();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'I have kept them' }).click();
  await expect(page.getByText('You show a code of an app as you sign in.')).toBeVisible();

  await page.goto('/set-up/staff');
  await page.getByRole('checkbox', { name: 'coordinator' }).check();
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  await expect(page.getByText('Set', { exact: true }).first()).toBeVisible();

  const bryn = await (await browser.newContext()).newPage();
  await fillIn(bryn, PEOPLE.coordinator, PASSWORD);
  await expect(bryn.getByRole('heading', { name: 'Set up a second factor' })).toBeVisible();
  await expectAccessible(bryn);
  await bryn.goto('/organisations');
  await expect(bryn).toHaveURL(/\/sign-in/);
  await bryn.goto('/sign-in/second');
  const theirs = (await bryn.locator('code').textContent())!;
  await bryn.getByLabel('The six digits it shows').fill(codeOf(theirs));
  await bryn.getByRole('button', { name: 'Set it up' }).click();
  await expect(bryn.getByRole('list', { name: 'Recovery codes' })).toBeVisible();
  await bryn.getByRole('button', { name: 'I have kept them: go on' }).click();
  await expect(bryn).toHaveURL(/\/organisations/);
  await bryn.context().close();

  const again = await (await browser.newContext()).newPage();
  await fillIn(again, PEOPLE.lead, PASSWORD);
  await expect(again.getByRole('heading', { name: 'One more step' })).toBeVisible();
  await again.getByLabel('Code').fill('000000');
  await again.getByRole('button', { name: 'Sign in' }).click();
  await expect(again.getByText('code is not right')).toBeVisible();
  await again.getByLabel('Code').fill(paper[0]);
  await again.getByRole('button', { name: 'Sign in' }).click();
  await expect(again).toHaveURL(/\/watch/);
  await again.context().close();

  // As it was, for the tests after this one.
  await page.getByRole('checkbox', { name: 'coordinator' }).uncheck();
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  const row = page.getByRole('row').filter({ hasText: PEOPLE.coordinator });
  await expect(row).toContainText('with a second factor');
  await row.getByRole('button', { name: 'Change' }).click();
  await page.getByRole('menuitem', { name: 'Take the second factor off…' }).click();
  await page.getByRole('button', { name: 'Take it off' }).click();
  await expect(row).not.toContainText('with a second factor');
  await page.goto('/account');
  await expect(page.getByText('9 recovery codes left')).toBeVisible();
  await page.getByRole('button', { name: 'Take the app off…' }).click();
  await page.getByRole('textbox', { name: 'The password you have now' }).fill(PASSWORD);
  await page.getByRole('button', { name: 'Take it off' }).click();
  await expect(page.getByText('is not asked for')).toBeVisible();
});

test('a passkey lets its owner in without a password, and none once it is taken off', async ({ page }) => {
  const client = await page.context().newCDPSession(page);
  await client.send('WebAuthn.enable');
  await client.send('WebAuthn.addVirtualAuthenticator', {
    options: {
      protocol: 'ctap2',
      transport: 'internal',
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  await page.goto('/sign-in');
  await expect(page.getByRole('button', { name: 'Sign in with a passkey' })).toHaveCount(0);
  await fillIn(page, PEOPLE.instructor, PASSWORD, NAMED);
  await expect(page).toHaveURL(/\/watch/);
  await page.goto(`${NAMED}/account`);
  await page.getByRole('button', { name: 'Make a passkey…' }).click();
  await page.getByLabel('What to call it').fill('my <telephone>');
  await page.getByRole('textbox', { name: 'The password you have now' }).fill(PASSWORD);
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByText('The passkey is kept')).toBeVisible();
  await expect(page.getByRole('cell', { name: 'my <telephone>', exact: true })).toBeVisible();
  await expectAccessible(page);

  await page.getByRole('button', { name: 'Sign out' }).click();
  await page.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await expect(page).toHaveURL(/\/watch/);

  await page.getByRole('button', { name: 'Sign out' }).click();
  await fillIn(page, PEOPLE.instructor, PASSWORD, NAMED);
  await expect(page.getByRole('heading', { name: 'One more step' })).toBeVisible();
  await page.getByRole('button', { name: 'Use a passkey' }).click();
  await expect(page).toHaveURL(/\/watch/);

  await page.goto(`${NAMED}/account`);
  await page.getByRole('button', { name: 'Take the passkey my <telephone> off…' }).click();
  await page.getByRole('textbox', { name: 'The password you have now' }).fill(PASSWORD);
  await page.getByRole('button', { name: 'Take it off' }).click();
  await expect(page.getByRole('cell', { name: 'my <telephone>', exact: true })).toHaveCount(0);
  await page.getByRole('button', { name: 'Sign out' }).click();
  await page.getByRole('button', { name: 'Sign in with a passkey' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'could not be checked' })).toBeVisible();
});

test('a token of one’s own reads what its owner sees, and nothing once a lead has ended it', async ({
  page,
  browser,
  request,
}) => {
  await signIn(page, 'mentor');
  await page.goto('/account');
  await page.getByRole('button', { name: 'Make a token…' }).click();
  await page.getByLabel('What for').fill('nightly export');
  await page.getByRole('textbox', { name: 'The password you have now' }).fill(PASSWORD);
  await page.getByRole('button', { name: 'Make it' }).click();
  const token = await page.getByRole('textbox', { name: 'Token' }).inputValue();
  await page.getByRole('button', { name: 'I have copied it' }).click();
  const row = page.getByRole('row').filter({ hasText: 'nightly export' });
  await expect(row).toContainText('all that you see');
  await expectAccessible(page);

  const headers = { authorization: `Bearer ${token}` };
  const own = await (await page.request.get('/api/v1/learners?limit=1')).json();
  const read = await request.get('/api/v1/learners?limit=1', { headers });
  expect((await read.json()).total).toBe(own.total);
  const written = await request.post('/api/v1/caseloads', { headers, data: { name: 'mine', learners: [] } });
  expect(written.status()).toBe(403);
  expect((await request.get('/api/v1/retention', { headers })).status()).toBe(404);

  const lead = await (await browser.newContext()).newPage();
  await signIn(lead, 'lead');
  await lead.goto('/set-up/staff');
  await lead.getByRole('button', { name: 'End the token nightly export of Mair Tolland' }).click();
  await expect(lead.getByText('Nobody has one.')).toBeVisible();
  expect((await request.get('/api/v1/learners', { headers })).status()).toBe(401);
  await lead.context().close();
});
