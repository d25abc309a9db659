import { PORT } from './ports';
import { PASSWORD, PEOPLE, expect, signIn, test } from './help';

const base = `http://127.0.0.1:${PORT}`;

test('answers say what they are: HEAD, unknown addresses, broken percent signs, and whose they are to keep', async ({
  page,
}) => {
  await signIn(page, 'lead');
  const { request } = page.context();
  const list = await request.get(`${base}/api/v1/learners?limit=1`);
  expect(list.headers()['cache-control']).toBe('private, no-store');
  const head = await request.head(`${base}/api/v1/learners?limit=1`);
  expect([head.status(), (await head.body()).length]).toEqual([200, 0]);
  for (const path of [
    '/watch/names',
    '/lists/learners/rows',
    '/lists/learners/export?format=csv',
    '/lists/access-log/rows',
    '/find?q=a',
  ]) {
    expect([path, (await request.get(base + path)).headers()['cache-control']]).toEqual([path, 'private, no-store']);
  }
  for (const path of ['/watch', '/learners', '/account']) {
    expect((await request.get(base + path)).headers()['cache-control']).toContain('no-store');
  }
  for (const [method, path, status] of [
    ['GET', '/api/v1/nowhere', 404],
    ['POST', '/api/nowhere', 404],
    ['GET', '/api/v1/imports', 405],
    ['GET', '/api/v1/who-did?item=&kind=nothing', 422],
    ['GET', '/api/v1/learners?cursor=x', 422],
    ['GET', '/api/v1/learners?opened_from=2026-11-01', 422],
    ['GET', '/api/v1/learners/%E0%A4%A', 400],
  ] as const) {
    const answer = await request.fetch(base + path, { method });
    expect([path, answer.status()]).toEqual([path, status]);
    expect(answer.headers()['content-type']).toContain('application/problem+json');
    expect(await answer.json()).toMatchObject({ status });
  }
  for (const path of ['/learners/%E0%A4%A', '/learners/%', '/write/%E0', '/xapi/statements/%E0']) {
    expect([path, (await request.get(base + path)).status()]).toEqual([path, 400]);
  }
  expect((await request.get(`${base}/lists/learners/call-sheet?q=${'x'.repeat(300)}`)).status()).toBeLessThan(500);
});

test('what is no request of a page’s gets an answer of its own, and nothing fails inside', async ({ page }) => {
  await signIn(page, 'mentor');
  const { request } = page.context();
  // The browser's own call of an action, to be sent again in other forms.
  const called = page.waitForRequest((one) => one.method() === 'POST' && one.headers()['next-action'] !== undefined);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  const action = (await called).headers()['next-action'];
  const call = async (body: string, type: string, named = true) => {
    const headers = { 'content-type': type, ...(named ? { 'next-action': action } : {}) };
    return (await request.post(`${base}/watch`, { headers, data: body })).status();
  };
  const text = 'text/plain;charset=UTF-8';
  for (const body of ['nonsense', '{}', '["$F1"]', '[{"toString":1},{"then":{}}]', '["$K1"]', '']) {
    expect([body, await call(body, text)]).toEqual([body, 400]);
  }
  expect(await call('garbage', 'multipart/form-data; boundary=x')).toBe(400);
  expect(await call('garbage', 'multipart/form-data; boundary=x', false)).toBe(400);
  expect(await call('{}', 'application/json')).toBe(400);
  for (const body of ['[]', '[null,null,null]', '[9,9,9]', '["x",{"a":[1]},["y"]]']) {
    expect([body, await call(body, text)]).toEqual([body, 200]);
  }
  for (const path of ['/watch', '/api/v1/watch', '/nowhere']) {
    const answer = await request.fetch(base + path, { method: 'TRACE' });
    expect([path, answer.status(), answer.headers().allow]).toEqual([path, 405, 'GET, HEAD, POST, OPTIONS']);
  }
  for (const path of ['/write/999999', '/write/x']) {
    expect([path, (await request.get(base + path)).status()]).toEqual([path, 404]);
  }
});

test('Back leads nowhere but back, and a draft to nobody but whose it is', async ({ page, browser }) => {
  await signIn(page, 'mentor');
  await page.getByRole('button', { name: 'Write' }).first().click();
  await expect(page).toHaveURL(/\/write\/\d+/);
  const { pathname } = new URL(page.url());
  for (const from of ['https://elsewhere.example/', '//elsewhere.example', '/\\\\elsewhere.example']) {
    await page.goto(`${pathname}?from=${encodeURIComponent(from)}`);
    await expect(page.getByRole('link', { name: 'Back' })).toHaveAttribute('href', '/watch');
  }
  const other = await (await browser.newContext()).newPage();
  await signIn(other, 'instructor');
  expect((await other.request.get(base + pathname)).status()).toBe(404);
  expect((await other.request.get(`${base}${pathname}/recipients`)).status()).toBe(404);
  await other.context().close();
});

test('people change their own password and end their own sign-ins', async ({ page, browser }) => {
  await signIn(page, 'instructor');
  const other = await (await browser.newContext()).newPage();
  await signIn(other, 'instructor');
  await page.getByRole('link', { name: /Jory Kestle/ }).click();
  await expect(page.getByRole('heading', { name: 'Your account' })).toBeVisible();
  await page.getByRole('button', { name: 'End all others' }).click();
  await expect(page.getByText('All others are ended')).toBeVisible();
  await other.goto('/watch');
  await expect(other).toHaveURL(/sign-in/);
  const change = async (current: string, next: string) => {
    await page.getByRole('button', { name: 'Change the password' }).click();
    await page.getByLabel('The password you have now').fill(current);
    await page.getByLabel('The new one').fill(next);
    await page.getByRole('button', { name: 'Change', exact: true }).click();
  };
  await change('not this one', 'another-long-password');
  await expect(page.getByText('is not the password you have now')).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await change(PASSWORD, 'another-long-password');
  await expect(page.getByText('Your password is changed')).toBeVisible();
  await change('another-long-password', PASSWORD);
  await expect(page.getByText('Your password is changed').last()).toBeVisible();
  expect(PEOPLE.instructor).toContain('jory');
});

test('a lead sets the working hours and a break, and takes it away again', async ({ page }) => {
  await signIn(page, 'lead');
  await page.goto('/set-up');
  await expect(page).toHaveURL(/set-up\/data/);
  await page.getByRole('link', { name: 'Calendar' }).click();
  await page.getByRole('button', { name: 'Add a break' }).click();
  await page.getByLabel('First day').fill('2026-12-01');
  await page.getByLabel('Last day').fill('2026-11-30');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByText('lies before from')).toBeVisible();
  await page.getByLabel('Last day').fill('2026-12-02');
  await page.getByLabel('Reason').fill('storm');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByRole('cell', { name: 'storm' })).toBeVisible();
  await page.getByRole('row', { name: /storm/ }).getByRole('button').click();
  await expect(page.getByRole('cell', { name: 'storm' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Change…' }).click();
  await page.getByLabel('Days and times').fill('whenever');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText(/are none: write them as/)).toBeVisible();
});

/** Pages of lists, each with what it is called. */
const LISTS: [path: string, heading: string | RegExp][] = [
  ['/courses', 'Courses'],
  ['/courses/progress', 'Progress'],
  ['/courses/work-due', 'Work due'],
  ['/courses/to-grade', 'To grade'],
  ['/courses/grades', 'Grades'],
  ['/courses/grades/groups', 'Grades'],
  ['/courses/grades/changes', 'Grades'],
  ['/courses/item-use', /^Item use/],
  ['/sessions/list', 'Sessions'],
  ['/sessions/attendance', 'Attendance'],
  ['/follow-ups/messages', 'Messages'],
];

test('a link that asks a list for what cannot be is shown without that, and says so', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');
  const wrong = 'sort=nonsense&status=gone&state=lost&period=whenever&from=soon&course=HAT';
  for (const [path, heading] of LISTS) {
    await page.goto(`${path}?${wrong}&as_of=2027-01-01`);
    await expect(page.getByRole('heading', { level: 1 }), path).toHaveText(heading);
    const says = page.getByRole('alert').filter({ hasText: 'The date looked back to lies after today' });
    await expect(says, path).toContainText('This link asks for what cannot be shown');
  }
  await page.goto('/courses/work-due?from=2026-11-20&to=2026-11-01');
  await expect(page.getByRole('alert').filter({ hasText: '“Last day” does not lie after from' })).toBeVisible();
  await expect(page.getByText('Due from 2026-11-20')).toBeVisible();
});
