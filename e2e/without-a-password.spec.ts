/** Coming in by another service's word: single sign-on by a real provider, and launches from a course platform. */
import type { Browser, Page } from '@playwright/test';
import { PEOPLE, expect, expectAccessible, signIn, test } from './help';
import { LTI_PORT } from './ports';

/** A browser of somebody's own. */
const ownBrowser = async (browser: Browser): Promise<Page> => (await browser.newContext()).newPage();

/** Signs in by the provider as somebody of its list. */
async function byProvider(page: Page, name: string): Promise<void> {
  await page.goto('/sign-in');
  await page.getByRole('link', { name: 'Sign in with Saltholm College' }).click();
  await page.getByRole('link', { name }).click();
}

/** Whom the provider alone knows, and what its claims say of them. */
const NEWCOMERS = [
  { name: 'Petra Finch', group: 'new-mentors' },
  { name: 'Wynn Roe', group: 'new-tutors' },
];

test('a provider lets in whom it vouches for, and whom its claims give a role', async ({ page, browser }, {
  retry,
}) => {
  const mair = await ownBrowser(browser);
  await byProvider(mair, 'Mair Tolland');
  await expect(mair).toHaveURL(/\/watch/);
  await expect(mair.getByText('Mair Tolland · mentor')).toBeVisible();

  // Somebody types the address of another: nobody vouches for it.
  const liar = await ownBrowser(browser);
  await byProvider(liar, 'Tobias Roe');
  await expect(liar.getByRole('heading', { name: 'You were not let in' })).toBeVisible();
  await expect(liar.getByText('does not vouch for your e-mail address')).toBeVisible();
  await expectAccessible(liar);

  // Known from her first time on: at a second try it is somebody else of another group.
  const { name, group } = NEWCOMERS[retry]!;
  const petra = await ownBrowser(browser);
  await byProvider(petra, name);
  await expect(petra.getByText('You have no account here')).toBeVisible();
  await signIn(page, 'lead');
  await page.goto('/set-up/staff');
  for (const [gives, which] of [
    ['role mentor', ''],
    ['scope course', 'NET'],
  ]) {
    await page.getByRole('button', { name: 'Add what a claim gives…' }).click();
    const dialog = page.getByRole('dialog', { name: 'What a claim gives' });
    await dialog.getByLabel('Claim').fill('groups');
    await dialog.getByLabel('Where it is, or holds').fill(group);
    await dialog.getByLabel('It gives').selectOption(gives);
    if (which !== '') await dialog.getByLabel('Which, for a scope').fill(which);
    await dialog.getByRole('button', { name: 'Add', exact: true }).click();
    await expect(dialog).toHaveCount(0);
  }
  await expect(page.getByText(`groups = ${group}: the role mentor`)).toBeVisible();
  await expectAccessible(page);
  // The provider has her signed in still: she is not asked again who she is.
  await petra.goto('/sign-in/provider');
  await expect(petra).toHaveURL(/\/watch/);
  await expect(petra.getByText(`${name} · mentor`)).toBeVisible();
  await petra.goto('/courses');
  await expect(petra.getByRole('row')).toHaveCount(2);

  // Signing out here signs out there too; what was sent once is good for nothing more.
  await petra.getByRole('button', { name: 'Sign out' }).click();
  await expect(petra.getByRole('heading', { name: 'Sign out of the stand-in too?' })).toBeVisible();
  await petra.getByRole('button', { name: 'Sign out' }).click();
  await expect(petra).toHaveURL(/\/sign-in$/);
  await petra.getByRole('link', { name: 'Sign in with Saltholm College' }).click();
  await expect(petra.getByRole('heading', { name: 'Who are you?' })).toBeVisible();
  await petra.goto('/sign-in/provider/back?code=x&state=aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa');
  await expect(petra.getByText('is over, or was begun elsewhere')).toBeVisible();
  for (const own of [mair, liar, petra]) await own.context().close();
});

test('everybody by the provider, but for one lead', async ({ page, browser }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up/staff');
  await page.getByRole('button', { name: 'Have everybody sign in by the service…' }).click();
  await page.getByRole('button', { name: 'Set it', exact: true }).click();
  await expect(page.getByText('but for Hesper Vane with a password')).toBeVisible();
  const own = await ownBrowser(browser);
  // Whatever fails here: the tests that follow sign in with passwords.
  try {
    await own.goto('/sign-in');
    await expect(own.getByLabel('E-mail')).toHaveCount(0);
    await expectAccessible(own);
    await own.getByRole('link', { name: 'With a password, in an emergency' }).click();
    await own.getByLabel('E-mail').fill(PEOPLE.mentor);
    await own.getByRole('textbox', { name: 'Password' }).fill('lee-shore-demo');
    await own.getByRole('button', { name: 'Sign in', exact: true }).click();
    await expect(own.getByText('do not match')).toBeVisible();
  } finally {
    await page.getByRole('button', { name: 'Let passwords in again' }).click();
    await expect(page.getByRole('button', { name: 'Have everybody sign in by the service…' })).toBeVisible();
  }
  await own.context().close();
});

test('a course platform sends those who teach to their course, and its members as the roster', async ({
  page,
  browser,
}, { retry }) => {
  const platform = `http://127.0.0.1:${LTI_PORT}`;
  const launch = async (own: Page, name: string) => {
    await own.goto(platform);
    await own.getByRole('row').filter({ hasText: name }).first().getByRole('link', { name: 'Open Lee Shore' }).click();
  };
  await signIn(page, 'lead');
  await page.goto('/set-up/platforms');
  await expect(page.getByText('/lti/launch')).toBeVisible();
  const end = async () => {
    await page.getByRole('button', { name: 'End Saltholm campus' }).click();
    await page.getByRole('button', { name: 'End it' }).click();
    await expect(page.getByText('None yet.').first()).toBeVisible();
  };
  // Left by a first try that failed.
  if (retry > 0 && (await page.getByRole('button', { name: 'End Saltholm campus' }).count()) > 0) await end();

  const isolde = await ownBrowser(browser);
  await launch(isolde, 'Isolde Kestle');
  await expect(isolde.getByText('That course platform is not known here')).toBeVisible();
  await page.getByRole('button', { name: 'Add a platform…' }).click();
  const dialog = page.getByRole('dialog', { name: 'A platform' });
  const typed = {
    Name: 'Saltholm campus',
    Issuer: platform,
    'Client id': 'lee-shore',
    Deployments: '1',
    'Sign-in address': 'http://campus.example/auth',
    'Keys address': `${platform}/keys`,
    'Token address': `${platform}/token`,
  };
  for (const [label, value] of Object.entries(typed)) await dialog.getByLabel(label).fill(value);
  await dialog.getByLabel('Are its e-mail addresses').selectOption('yes');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(dialog.getByText('does not begin with https://')).toBeVisible();
  await dialog.getByLabel('Sign-in address').fill(`${platform}/auth`);
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(dialog).toHaveCount(0);

  // A platform may have the browser post its form: it is led on, and posts it nowhere else.
  const form = { iss: platform, login_hint: 't-900', target_link_uri: 'x' };
  const led = await page.request.post('/lti/login', { form, maxRedirects: 0 });
  expect([led.status(), led.headers().location]).toEqual([302, expect.stringContaining(`${platform}/auth?`)]);

  await launch(isolde, 'Isolde Kestle');
  await isolde.getByRole('button', { name: 'Go on to Lee Shore' }).click();
  await expect(isolde.getByRole('heading', { name: 'is not connected yet' })).toBeVisible();
  await expectAccessible(isolde);
  // The page before once more: a launch is good once.
  await isolde.goBack();
  await isolde.getByRole('button', { name: 'Go on to Lee Shore' }).click();
  await expect(isolde.getByText('is over, or was begun elsewhere')).toBeVisible();

  await page.reload();
  const title = (await page
    .getByRole('group', { name: 'Courses of platforms' })
    .locator('td bdi')
    .first()
    .textContent())!;
  await page.getByRole('combobox', { name: `${title} is here` }).click();
  await page.getByRole('option', { name: 'NET', exact: true }).click();
  await expect(page.getByText(`${title} is NET here`)).toBeVisible();
  await expect(async () => {
    await page.reload();
    await expect(page.getByText(/^read /)).toBeVisible({ timeout: 1000 });
  }).toPass();
  await expectAccessible(page);

  await launch(isolde, 'Isolde Kestle');
  await isolde.getByRole('button', { name: 'Go on to Lee Shore' }).click();
  await expect(isolde).toHaveURL(/\/courses\/progress\?course=NET/);
  await expect(isolde.getByText('Isolde Kestle · instructor')).toBeVisible();
  // Somebody whom the platform alone knew is in the course now.
  await expect(async () => {
    await isolde.goto('/learners?q=Oriel+Finch');
    await expect(isolde.getByRole('link', { name: 'Oriel Finch' }).first()).toBeVisible({ timeout: 1000 });
  }).toPass();

  const learner = await ownBrowser(browser);
  await learner.goto(platform);
  await learner.getByRole('row').filter({ hasText: 'Learner' }).first().getByRole('link').click();
  await learner.getByRole('button', { name: 'Go on to Lee Shore' }).click();
  await expect(learner.getByText('for those who teach and mentor')).toBeVisible();

  await end();
  await isolde.goto('/courses');
  await expect(isolde.getByRole('row')).toHaveCount(0);
  for (const own of [isolde, learner]) await own.context().close();
});
