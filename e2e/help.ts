import AxeBuilder from '@axe-core/playwright';
import { expect, test as base, type Locator, type Page } from '@playwright/test';

export const PASSWORD = 'lee-shore-demo';
export const PEOPLE = {
  mentor: 'mair.tolland@saltholm.example',
  instructor: 'jory.kestle@saltholm.example',
  coordinator: 'bryn.ostler@norrick.example',
  lead: 'hesper.vane@saltholm.example',
} as const;
export type Role = keyof typeof PEOPLE;

/** A test that fails on any error in the page or its console, and on a policy broken. */
export const test = base.extend({
  page: async ({ page }, runTest) => {
    const faults: string[] = [];
    page.on('pageerror', (error) => faults.push(String(error)));
    page.on('console', (message) => {
      if (message.type() !== 'error' || /status of 422|ERR_INTERNET_DISCONNECTED|^NoConnection/.test(message.text()))
        return;
      const { url } = message.location();
      // A page that asks what is new while somebody signs out in it is told that they are gone.
      if (/status of 401/.test(message.text()) && url.endsWith('/pulse')) return;
      faults.push(`${message.text()} ${url}`);
    });
    await runTest(page);
    expect(faults).toEqual([]);
  },
});
export { expect };

export async function signIn(page: Page, role: Role): Promise<void> {
  await page.goto('/sign-in');
  await page.getByLabel('E-mail').fill(PEOPLE[role]);
  await page.getByRole('textbox', { name: 'Password' }).fill(PASSWORD);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(role === 'coordinator' ? /\/organisations/ : /\/watch/);
}

/** axe finds nothing serious or critical. @param rules by these rules alone */
export async function expectAccessible(page: Page, rules?: string[]): Promise<void> {
  const axe = new AxeBuilder({ page })
    .options({ resultTypes: ['violations'] })
    // No page has frames of another origin, for which each look would open a page of its own.
    .setLegacyMode(true)
    // Rows are alike: the first stand for the others.
    .exclude('tbody > tr:nth-child(n + 9)')
    .exclude('ul > li:nth-child(n + 9)');
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  expect(
    serious.map(
      ({ id, nodes }) => `${id}: ${nodes.map((node) => `${node.target} ${node.failureSummary}`).join(' | ')}`,
    ),
  ).toEqual([]);
}

/** Drops a file on the page for bringing in data, and waits until it stands there to be looked at. */
export async function dropFile(page: Page, name: string, text: string): Promise<Locator> {
  await page.locator('input[type=file]').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  const file = page.getByRole('article').filter({ has: page.getByRole('heading', { name, exact: true }) });
  await expect(file).toBeVisible();
  return file;
}

/** Brings in what was dropped, and waits until it is done. */
export async function takeDropped(page: Page, name: string): Promise<Locator> {
  await page.getByRole('button', { name: /^Bring in \d/ }).click();
  const row = page.getByRole('row').filter({ hasText: name }).first();
  await expect(row).toContainText('done');
  return row;
}
