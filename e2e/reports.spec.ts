import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { INBOX_PORT, TOKEN } from './ports';
import { expect, expectAccessible, signIn, test } from './help';

const headers = { authorization: `Bearer ${TOKEN}` };

/** The file that a press downloads. */
async function fileOf(page: Page, name: string): Promise<Buffer> {
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name, exact: true }).click();
  return readFileSync((await (await coming).path())!);
}

test('a report is made, read in every format and taken away by a program', async ({ request }) => {
  const columns = (await (await request.get('/api/v1/reports/columns', { headers })).json()).data;
  expect(Object.keys(columns[0])).toEqual(['name', 'title', 'unit', 'says', 'per', 'leaves']);
  expect(columns.find(({ name }: { name: string }) => name === 'drift').leaves).toBe(false);
  const definition = {
    name: 'Where HAT stands',
    whose: { course: 'HAT' },
    per: 'enrolment',
    columns: ['learner_id', 'name', 'progress', 'on_graded_work'],
    averages: 'course',
    for: 'outside',
  };
  const refused = await request.post('/api/v1/reports', {
    headers,
    data: { ...definition, columns: ['name', 'band'] },
  });
  expect(refused.status()).toBe(422);
  expect((await refused.json()).errors).toEqual([
    { field: 'columns', message: 'has band, which may not leave the staff' },
  ]);
  const made = await request.post('/api/v1/reports', { headers, data: definition });
  expect(made.status()).toBe(201);
  const { id, href } = await made.json();
  expect(href).toBe(`/api/v1/reports/${id}`);
  expect(await (await request.get(href, { headers })).json()).toMatchObject({ ...definition, shared_with: [] });
  const rows = await (await request.get(`${href}/rows`, { headers })).json();
  const list = await (await request.get('/api/v1/progress?course=HAT&limit=1000', { headers })).json();
  const shares = (data: { learner_id: string; progress: number }[]) =>
    data.map(({ learner_id, progress }) => `${learner_id} ${progress}`).sort();
  expect(shares(rows.data)).toEqual(shares(list.data));
  expect(rows.total).toBe(list.total);
  const csv = await (await request.get(`${href}/rows?format=csv`, { headers })).text();
  expect(csv.split('\r\n')[0].replace('\uFEFF', '')).toBe(
    'learner_id,name,progress,progress_average,on_graded_work,on_graded_work_average',
  );
  const pdf = await request.get(`${href}/rows?format=pdf&layout=pages`, { headers });
  expect([pdf.status(), pdf.headers()['content-type']]).toEqual([200, 'application/pdf']);
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
  const listed = (await (await request.get('/api/v1/reports', { headers })).json()).data;
  expect(listed.find((one: { id: number }) => one.id === id).last_run).not.toBeNull();
  expect((await request.delete(href, { headers })).status()).toBe(204);
  expect((await request.get(href, { headers })).status()).toBe(404);
});

test('a report is chosen, saved, opened again and had as a file', async ({ page }) => {
  await signIn(page, 'lead');
  await page.getByRole('link', { name: 'Reports' }).first().click();
  await page.getByRole('link', { name: 'Standing of a course' }).click();
  await expect(page.getByRole('heading', { name: 'Standing of a course' })).toBeVisible();
  const heads = page.getByRole('group', { name: 'First rows' }).getByRole('columnheader');
  await expect(heads.filter({ hasText: 'Progress, course average' })).toBeVisible();
  // A column is found by typing and stands there at once; another is moved and one is taken away.
  await page.getByLabel('Add a column').fill('next d');
  await page.getByRole('button', { name: /^Next due/ }).click();
  await expect(heads.last()).toHaveText('Next due');
  await page.getByRole('button', { name: 'Next due earlier' }).click();
  await expect(heads.last()).toHaveText('Last access');
  await page.getByRole('button', { name: 'Without Behind plan' }).click();
  await expect(heads.filter({ hasText: 'Behind plan' })).toHaveCount(0);
  // For others than staff, what may not leave is left out and said.
  await page.getByLabel('Add a column').fill('drift');
  await page.getByRole('button', { name: /^Drift How far/ }).click();
  await expect(heads.last()).toHaveText('Drift');
  await page.getByLabel('For', { exact: true }).selectOption('outside');
  await expect(page.getByText('Left out: Drift may not leave the staff')).toBeVisible();
  await expect(heads.filter({ hasText: 'Drift' })).toHaveCount(0);
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByRole('dialog').getByLabel('Name').fill('Every Monday');
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { name: 'Every Monday' })).toBeVisible();
  const csv = (await fileOf(page, 'CSV')).toString().replace('\uFEFF', '');
  expect(csv.split('\r\n')[0]).toContain('next_due,last_access');
  expect(csv).not.toContain('drift');
  expect((await fileOf(page, 'PDF')).subarray(0, 5).toString()).toBe('%PDF-');
  expect((await fileOf(page, 'XLSX')).subarray(0, 2).toString()).toBe('PK');
  // More than sixty pages are made meanwhile.
  await page.getByRole('button', { name: 'PDF, a page each' }).click();
  await expect(page.getByRole('heading', { name: 'Made for you' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Download' }).first()).toBeVisible({ timeout: 60_000 });
  expect((await fileOf(page, 'Download')).subarray(0, 5).toString()).toBe('%PDF-');
  await page.getByRole('link', { name: 'Every Monday' }).click();
  await page.getByRole('button', { name: 'Share …' }).click();
  await page.getByRole('dialog').getByText('Mair Tolland').click();
  await page.getByRole('dialog').getByRole('button', { name: 'Share' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
});

test('a shared report shows a colleague their own people, and is not theirs to take away', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/reports');
  await expect(page.getByRole('row', { name: /Every Monday/ })).toContainText('Hesper Vane’s, shared with you');
  await page.getByRole('link', { name: 'Every Monday' }).click();
  await expect(page.getByRole('button', { name: 'Save', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Remove' })).toHaveCount(0);
  await expect(page.getByRole('group', { name: 'First rows' })).toBeVisible();
});

test('a report of one learner is a press away from their page', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/learners/L20417');
  await page.getByRole('button', { name: 'Report', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'One learner whole' })).toBeVisible();
  await expect(page.getByText(/^1 learner/)).toBeVisible();
  expect((await fileOf(page, 'PDF, a page each')).subarray(0, 5).toString()).toBe('%PDF-');
});

test('a kept report is sent by itself, and so is the Monday letter', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/reports');
  await page.getByRole('link', { name: 'Every Monday' }).click();
  await page.getByRole('button', { name: 'Send …' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByText('Thursday').click();
  await dialog.getByRole('textbox', { name: 'At' }).fill('half past');
  await dialog.getByRole('button', { name: 'Send from now on' }).click();
  await expect(dialog.getByText(/is not a time such as/)).toBeVisible();
  await dialog.getByRole('textbox', { name: 'At' }).fill('6.30');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Send from now on' }).click();
  await expect(dialog).toHaveCount(0);
  await page.goto('/reports');
  const row = page.getByRole('row', { name: /Mondays and Thursdays at 06:30/ });
  await expect(row).toContainText('Thu 26 Nov, 06:30');
  const letter = page.getByRole('switch', { name: 'Monday letter' });
  await letter.click({ force: true });
  await expect(letter).toBeChecked();
  await row.getByRole('button', { name: 'End' }).click();
  await expect(row).toHaveCount(0);
  await letter.click({ force: true });
  await expect(letter).not.toBeChecked();
});

test('a report is written to its learners, each with their own page', async ({ page, request }) => {
  await signIn(page, 'lead');
  await page.goto('/learners/L20834');
  await page.getByRole('button', { name: 'Report', exact: true }).click();
  await page.getByRole('button', { name: 'Write to each …' }).click();
  await expect(page.getByRole('heading', { name: /^Write to / })).toBeVisible();
  await expect(page.getByText('Send as')).toHaveCount(0);
  const link = page.getByRole('link', { name: /^the page about .* as a PDF$/ });
  const pdf = await page.request.get((await link.getAttribute('href'))!);
  expect((await pdf.body()).subarray(0, 5).toString()).toBe('%PDF-');
  expect(pdf.headers()['content-disposition']).toBe('inline');
  await expectAccessible(page);
  const subject = `Your term ${Date.now()}`;
  await page.getByLabel('Subject').fill(subject);
  const acknowledge = page.getByRole('checkbox');
  if (await acknowledge.count()) await acknowledge.first().check();
  await page.getByRole('button', { name: 'Send 1 message' }).click();
  const inbox = `http://127.0.0.1:${INBOX_PORT}/messages.json`;
  await expect
    .poll(
      async () => {
        const mails: { subject: string; attachments: { name: string }[] }[] = await (await request.get(inbox)).json();
        return mails.find((mail) => mail.subject === subject)?.attachments.map(({ name }) => name);
      },
      { timeout: 40_000 },
    )
    .toEqual(['how-you-are-doing.pdf']);
});
