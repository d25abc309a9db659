import { readFileSync } from 'node:fs';
import { Readable } from 'node:stream';
import ExcelJS from 'exceljs';
import type { APIRequestContext } from '@playwright/test';
import { EMPTY_PORT, INBOUND_TOKEN, TOKEN } from './ports';
import { expect, signIn, test } from './help';

const headers = { authorization: `Bearer ${TOKEN}` };
const base = `http://127.0.0.1:${EMPTY_PORT}/api/v1`;

async function bringIn(request: APIRequestContext, kind: string, data: string | Buffer) {
  const answer = await request.post(`${base}/imports?kind=${kind}`, { headers, data });
  expect(answer.status()).toBe(202);
  const { id, href } = await answer.json();
  expect(href).toBe(`/api/v1/imports/${id}`);
  let run = { state: 'waiting', error: null };
  await expect
    .poll(
      async () => {
        run = await (await request.get(`${base}/imports/${id}`, { headers })).json();
        return run.state;
      },
      { timeout: 20_000 },
    )
    .toMatch(/done|failed/);
  return { id, ...run } as Record<string, unknown> & { id: number };
}

test('health needs no token', async ({ request }) => {
  const answer = await request.get(`${base}/health`);
  expect(await answer.json()).toMatchObject({ status: 'ok', migrated: true });
});

test('files in, learners out, page by page and as files', async ({ request }) => {
  const sample = (name: string) => readFileSync(`samples/small/${name}.csv`);
  expect(await bringIn(request, 'outline', sample('outline'))).toMatchObject({ state: 'done', accepted: 120 });
  const roster = `${sample('roster').toString()}L300000,"=cmd|'/c calc'!A1",@Evil,,,"<script>alert(1)</script>",HAT,A,2026-10-01,active,\n`;
  expect(await bringIn(request, 'roster', roster)).toMatchObject({ state: 'done', accepted: 26 });
  await bringIn(request, 'staff', sample('staff'));
  expect(await bringIn(request, 'access-log', sample('access-log-1'))).toMatchObject({ state: 'done', rejected: 0 });

  const first = await (await request.get(`${base}/learners?limit=10&sort=learner_id`, { headers })).json();
  expect(first).toMatchObject({ total: 24 });
  expect(Object.keys(first.data[0])).toEqual([
    'learner_id',
    'name',
    'email',
    'phone',
    'organisation',
    'courses',
    'last_access',
    'days_quiet',
    'minutes_online',
    'drift',
    'band',
    'overdue',
    'enrolled_on',
    'last_contact',
  ]);
  const ids = first.data.map((row: { learner_id: string }) => row.learner_id);
  let { next } = first;
  while (next) {
    const page = await (
      await request.get(`${base}/learners?limit=10&sort=learner_id&cursor=${next}`, { headers })
    ).json();
    ids.push(...page.data.map((row: { learner_id: string }) => row.learner_id));
    ({ next } = page);
  }
  expect(ids).toEqual([...new Set(ids)].sort());
  expect(ids).toHaveLength(24);

  const csv = await (await request.get(`${base}/learners?format=csv&sort=learner_id`, { headers })).text();
  expect(csv.trim().split('\r\n')).toHaveLength(25);
  expect(csv).toContain("'=cmd|");
  expect(csv).toContain("'+44 1632");
  const sheet = new ExcelJS.Workbook();
  const xlsx = await (await request.get(`${base}/learners?format=xlsx&sort=learner_id`, { headers })).body();
  await sheet.xlsx.read(Readable.from([xlsx]));
  expect(sheet.worksheets[0].rowCount).toBe(25);
  expect(sheet.worksheets[0].getCell('B25').value).toBe("'=cmd|'/c calc'!A1 @Evil");

  const detail = await (await request.get(`${base}/learners/L210007`, { headers })).json();
  expect(detail.enrolments.map((one: { course: string }) => one.course).sort()).toEqual(['HAT', 'SBE']);
  expect(Object.keys(detail.enrolments[0])).toEqual([
    'course',
    'group',
    'enrolled_on',
    'status',
    'last_access',
    'days_quiet',
    'minutes_online',
    'progress',
    'overdue',
    'attendance_rate',
    'grade',
    'drift',
    'band',
    'reasons',
  ]);
  const course = await (await request.get(`${base}/learners?course=HAT&group=A&q=L210007`, { headers })).json();
  expect(course.data[0].courses).toEqual(['HAT']);
});

test('errors are problems that name the field', async ({ request }) => {
  const answer = await request.get(`${base}/learners?limit=5000&quiet=soon&sort=height`, { headers });
  expect(answer.status()).toBe(422);
  expect(answer.headers()['content-type']).toContain('application/problem+json');
  const body = await answer.json();
  expect(body.errors.map((error: { field: string }) => error.field).sort()).toEqual(['limit', 'quiet', 'sort']);
  for (const path of [
    'learners/nobody',
    'imports/99999',
    'imports/x',
    'imports/99999/rejects',
    'learners?course=NOWHERE',
  ]) {
    expect([path, (await request.get(`${base}/${path}`, { headers })).status()]).toEqual([path, 404]);
  }
  const kind = await request.post(`${base}/imports?kind=pictures&timezone=Nowhere`, { headers, data: 'x' });
  expect((await kind.json()).errors.map((error: { field: string }) => error.field).sort()).toEqual([
    'kind',
    'timezone',
  ]);
});

test('files that are no such files are refused whole', async ({ request }) => {
  for (const name of ['empty', 'picture', 'wrong-columns']) {
    const run = await bringIn(request, 'access-log', readFileSync(`samples/bad/${name}.csv`));
    expect(run).toMatchObject({ state: 'failed', accepted: 0, error: expect.any(String) });
  }
});

test('rejects come as CSV with line, field, reason and the row’s own columns', async ({ request }) => {
  const run = await bringIn(request, 'access-log', 'time,learner_id,course,action\nnever,L210000,SBE,opened\n');
  const text = await (await request.get(`${base}/imports/${run.id}/rejects`, { headers })).text();
  expect(text).toBe(
    'line,field,reason,time,learner_id,course,action\r\n2,time,is not a time such as 2026-11-24T09:10:00Z,never,L210000,SBE,opened\r\n',
  );
});

test('a session is good for reading, and not for bringing files in', async ({ page }) => {
  await signIn(page, 'lead');
  expect((await page.request.get('/api/v1/learners')).status()).toBe(200);
  expect((await page.request.post('/api/v1/imports?kind=roster', { data: 'x' })).status()).toBe(401);
  expect((await page.request.post('/set-up/data/upload?kind=roster', { data: 'x' })).status()).toBe(403);
});

test('mail is brought in with a token that is good for nothing else', async ({ request }) => {
  const post = (data: string | Buffer, token: string) =>
    request.post(`${base}/replies`, {
      data,
      headers: { authorization: `Bearer ${token}`, 'content-type': 'message/rfc822' },
    });
  const mail = 'From: a-stranger@elsewhere.example\r\nMessage-ID: <api@x>\r\nSubject: Hello\r\n\r\nHello\r\n';
  expect((await post(mail, 'wrong-token-0000001')).status()).toBe(401);
  const first = await post(mail, INBOUND_TOKEN);
  expect([first.status(), await first.json()]).toEqual([201, { kind: 'answer', matched: false, known: false }]);
  const again = await post(mail, INBOUND_TOKEN);
  expect([again.status(), (await again.json()).known]).toEqual([200, true]);
  expect((await post('no mail at all', INBOUND_TOKEN)).status()).toBe(422);
  expect((await post(Buffer.alloc(5_300_000, 'x'), INBOUND_TOKEN)).status()).toBe(413);
  // The token opens nothing else.
  const other = await request.get(`${base}/learners`, { headers: { authorization: `Bearer ${INBOUND_TOKEN}` } });
  expect(other.status()).toBe(401);
});

test('a list as of a past day, and by what was opened; a file with a mapping', async ({ request }) => {
  const get = async (query: string) => (await request.get(`${base}/learners?${query}`, { headers })).json();
  const then = await get('as_of=2026-11-10&sort=-days_quiet&limit=5');
  expect(then.data.every((row: { last_access: string | null }) => (row.last_access ?? '') < '2026-11-11')).toBe(true);
  expect((await get('as_of=2026-02-30')).errors).toEqual([
    { field: 'as_of', message: 'is not a date such as 2026-11-24' },
  ]);
  const item = 'HAT/HAT-01-1';
  const [opened, never, all] = [
    await get(`course=HAT&opened=${item}`),
    await get(`course=HAT&not_opened=${item}`),
    await get('course=HAT'),
  ];
  expect(opened.total).toBeGreaterThan(0);
  expect(opened.total + never.total).toBe(all.total);
  const mapping = encodeURIComponent(
    JSON.stringify({
      columns: { number: 'learner_id', first: 'given_name', class: 'course', since: 'enrolled_on' },
      dates: 'day_first',
      timezone: 'UTC',
    }),
  );
  const file = 'Number,First,Class,Since\nM1,Ada,HAT,24.10.2026\nM2,Bo,HAT,30.02.2026\n';
  const answer = await request.post(`${base}/imports?kind=roster&source=registry&mapping=${mapping}`, {
    headers,
    data: file,
  });
  const { id } = await answer.json();
  await expect
    .poll(async () => (await (await request.get(`${base}/imports/${id}`, { headers })).json()).state, {
      timeout: 20_000,
    })
    .toBe('done');
  expect(await (await request.get(`${base}/imports/${id}`, { headers })).json()).toMatchObject({
    accepted: 1,
    rejected: 1,
  });
  expect((await get('q=M1')).data[0]).toMatchObject({ learner_id: 'M1', courses: ['HAT'] });
  const broken = await request.post(
    `${base}/imports?kind=roster&mapping=${encodeURIComponent('{"columns":{"a":"learner_id","b":"learner_id"},"dates":"iso","timezone":"UTC"}')}`,
    { headers, data: file },
  );
  expect((await broken.json()).errors).toEqual([
    { field: 'mapping', message: 'a and b are both mapped to learner_id' },
  ]);
});
