import { TOKEN } from './ports';
import { expect, expectAccessible, signIn, test } from './help';

test('one switch covers every name on every screen, and the server does it', async ({ page }) => {
  test.setTimeout(180_000);
  const everybody: { learner_id: string; name: string; email: string | null }[] = (
    await (
      await page.request.get('/api/v1/learners?limit=1000&status=all', {
        headers: { authorization: `Bearer ${TOKEN}` },
      })
    ).json()
  ).data;
  const staff = ['Tolland', 'Kestle', 'Ostler', 'Vane', 'Aldo Finch'];
  const real = [
    ...everybody.flatMap(({ learner_id, name, email }) => [learner_id, name, ...(email ? [email] : [])]),
    ...staff,
  ];
  await signIn(page, 'lead');
  await page.goto('/learners/L20417');
  await page.getByRole('switch', { name: /^Names hidden/ }).click();
  await expect(page).toHaveURL(/\/watch$/);
  const namesHidden = page.getByRole('status').filter({ hasText: 'Names are hidden' });
  await expect(namesHidden).toBeVisible();
  await expectAccessible(page);
  const own = (await (await page.request.get('/api/v1/learners?limit=1')).json()).data[0].learner_id;
  expect(own).toMatch(/^c-/);
  for (const path of [
    '/watch',
    '/watch/names',
    '/watch/set-aside',
    '/learners?limit=100',
    '/lists/learners/call-sheet',
    '/lists/learners/export?format=csv',
    '/lists/learners/rows',
    `/learners/${own}`,
    `/learners/${own}/conversation`,
    `/learners/${own}/everything`,
    '/access-log?fold=no&staff=yes',
    `/access-log?learner=${own}&fold=no`,
    '/lists/access-log/rows?staff=yes',
    '/lists/messages/export?format=csv',
    '/lists/notes/export?format=csv',
    '/lists/messages/rows',
    '/lists/notes/rows',
    '/access-log/export?format=csv&period=7-days&staff=yes',
    '/access-log/export?format=jsonl&period=today',
    '/courses/now?in=course:HAT',
    '/courses/item-use?course=HAT',
    '/courses/who-did?course=HAT&kind=talked&period=7-days',
    '/courses/checks',
    '/set-up/sources',
    '/set-up/platforms',
    '/api/v1/access-log?limit=1000&staff=yes',
    '/find?q=a',
    '/follow-ups?whose=all',
    '/follow-ups?whose=all&state=closed',
    '/follow-ups/messages',
    '/follow-ups/answers',
    '/follow-ups/notes',
    '/set-up/roster',
    '/set-up/staff',
    '/set-up/changes',
    '/set-up/weights',
    '/set-up/trial',
    '/set-up/data',
    '/api/v1/learners?limit=1000&status=all',
    `/api/v1/learners/${own}`,
  ]) {
    const answer = await page.request.get(path);
    expect([path, answer.status()]).toEqual([path, 200]);
    const text = await answer.text();
    expect([path, real.filter((one) => text.includes(one))]).toEqual([path, []]);
  }
  expect((await page.request.get('/learners/L20417')).status()).toBe(404);
  // The person beside the list comes by another way: namesHidden too.
  await page.goto('/learners');
  const panel = page.getByRole('complementary', { name: 'The learner under the cursor' });
  await expect(panel).toContainText('c-');
  const shown = await panel.textContent();
  expect(real.filter((one) => shown!.includes(one))).toEqual([]);
  await page.getByRole('switch', { name: /^Names hidden/ }).click();
  await expect(namesHidden).toHaveCount(0);
  await expect(page.getByRole('switch', { name: 'Names hidden: off' })).toBeVisible();
});
