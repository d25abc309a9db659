/**
 * Coming in: what single sign-on adds to the provider's own time, what a code or a passkey adds to a password, what the page of
 * figures costs on a large institution, and a page while a large backup is put back and looked through.
 */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { constants, setPriority, tmpdir } from 'node:os';
import { join } from 'node:path';
import { setImmediate as breathe, setTimeout as pause } from 'node:timers/promises';
import { generateSync } from 'otplib';
import { withRaw } from '@/data/db';
import { WATCH } from '@/server/drift/watch-list';
import { metricsText } from '@/server/metrics/metrics';
import type { Runtime } from '@/server/runtime';
import { addAccount, signIn } from '@/server/staff/accounts';
import { askPasskey, keepPasskey, offerPasskey, signInByPasskey } from '@/server/staff/passkeys';
import { comeFromProvider, goToProvider } from '@/server/staff/provider/sign-in';
import { offerOwnCodes, setUpOwnCodes, showCode } from '@/server/staff/second-factor';
import { viewerBySession } from '@/server/staff/sessions';
import { TestDevice } from '@/server/staff/test-device';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { percentile, repeat, report, timed } from './measure';
import { fill, openBench } from './work-data';

const LARGE = { courses: 20, learners: 1000, group: 50, items: 10 };
const FROM = { address: 'bench', browser: null, agent: '' };
const HERE = { origin: 'https://lee-shore.example', host: 'lee-shore.example', agent: '' };
const PASSWORD = 'a password of the bench';
const email = (n: number) => `staff${n}@bench.example`;
const PORT = 4699;
const TIMES = 30;
const median = (values: readonly number[]) => percentile(values, 0.5);

/** A page's limit is a time, not a ratio: it is printed as a share of it. */
const reportTime = (name: string, ms: number, most: number, beside: string) =>
  report(name, ms / most, 1, `${ms.toFixed(1)} of ${most} ms · ${beside}`);

/** The stand-in for a provider, with the staff of the bench. */
async function startProvider(dir: string, staff: number): Promise<ChildProcess> {
  const file = join(dir, 'provider.json');
  const person = (n: number) => ({
    email: email(n),
    email_verified: true,
    given_name: `N${n}`,
    family_name: '',
    groups: [],
  });
  writeFileSync(file, JSON.stringify(Array.from({ length: staff }, (_, n) => person(n))));
  const child = spawn('node', ['dist/provider.mjs'], {
    env: { ...process.env, PROVIDER_PORT: String(PORT), PROVIDER_FILE: file, LEESHORE_URL: HERE.origin },
    stdio: 'ignore',
  });
  for (let tries = 0; tries < 100; tries += 1) {
    const isThere = await fetch(`http://127.0.0.1:${PORT}/.well-known/openid-configuration`).then(
      (answer) => answer.ok,
      () => false,
    );
    if (isThere) return child;
    await pause(100);
  }
  throw new Error('the provider did not start');
}

/** Somebody's browser, from where they were sent to where they are sent back. */
async function walk(to: string, person: number): Promise<URLSearchParams> {
  const jar = new Map<string, string>();
  let url = to;
  for (let hops = 0; hops < 10; hops += 1) {
    if (url.startsWith(HERE.origin)) return new URL(url).searchParams;
    const at = /\/interaction\/[\w-]+$/.test(url) ? `${url}/${person}` : url;
    const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ');
    const answer = await fetch(at, { redirect: 'manual', headers: { cookie } });
    await answer.text();
    for (const set of answer.headers.getSetCookie()) {
      const [, name, value] = /^([^=]+)=([^;]*)/.exec(set) ?? [];
      jar.set(name, value);
    }
    url = new URL(answer.headers.get('location') ?? '', at).href;
  }
  throw new Error('the provider leads nowhere');
}

/** The whole of a sign-in beside the time in which the provider was asked. */
async function benchProvider(opened: Runtime, dir: string): Promise<void> {
  const child = await startProvider(dir, TIMES);
  const secret = 'a-secret-of-the-demo';
  const provider = { issuer: `http://127.0.0.1:${PORT}`, clientId: 'lee-shore', clientSecret: secret, name: 'bench' };
  const runtime = { ...opened, settings: { ...opened.settings, url: HERE.origin, provider } };
  const plain = globalThis.fetch;
  let asked = 0;
  globalThis.fetch = async (...call) => {
    // The provider's answer is there once its last byte is.
    const { ms, value } = await timed(async () => {
      const answer = await plain(...call);
      await answer.clone().arrayBuffer();
      return answer;
    });
    asked += ms;
    return value;
  };
  try {
    const whole: number[] = [];
    const own: number[] = [];
    for (let n = 0; n < TIMES; n += 1) {
      asked = 0;
      const { ms } = await timed(async () => {
        const { to, state } = await goToProvider(runtime);
        await comeFromProvider(runtime, await walk(to, n), state, FROM);
      });
      whole.push(ms);
      own.push(asked);
    }
    const says = `${median(whole).toFixed(1)} to ${median(own).toFixed(1)} ms`;
    report('a sign-in by OpenID Connect to the provider’s own time', median(whole) / median(own), 1.5, says);
  } finally {
    globalThis.fetch = plain;
    child.kill();
  }
}

async function benchSecond(runtime: Runtime): Promise<void> {
  const login = { email: email(0), password: PASSWORD };
  const plain = median(await repeat(10, () => signIn(runtime, login, FROM)));
  const done = await signIn(runtime, login, FROM);
  if ('half' in done) throw new Error('A second factor is asked for');
  const viewer = (await viewerBySession(runtime, done.token))!;
  const device = new TestDevice(HERE.origin, HERE.host);
  const { challenge } = await offerPasskey(runtime, viewer, HERE);
  await keepPasskey(runtime, viewer, HERE, device.make(challenge), { current: PASSWORD, name: '' });
  const byPasskey = await repeat(TIMES, async () => {
    const { challenge: asked } = await askPasskey(runtime, HERE);
    await signInByPasskey(runtime, HERE, device.sign(asked), FROM);
  });
  const beside = `a password alone ${plain.toFixed(1)} ms`;
  reportTime('what a passkey adds', median(byPasskey), 20, beside);

  // Each code is good once: the clock goes on by a step.
  let passed = 0;
  const moved = { ...runtime, clock: { ...runtime.clock, real: () => Date.now() + passed } };
  const codeNow = (secret: string) =>
    generateSync({ strategy: 'totp', secret, digits: 6, period: 30, epoch: Math.floor(moved.clock.real() / 1000) });
  const { secret } = await offerOwnCodes(moved, viewer);
  await setUpOwnCodes(moved, viewer, { secret, code: codeNow(secret), current: PASSWORD });
  const byCode: number[] = [];
  for (let n = 0; n < 10; n += 1) {
    passed += 30_000;
    const half = await signIn(moved, login, FROM);
    if (!('half' in half)) throw new Error('No second factor is asked for');
    byCode.push((await timed(() => showCode(moved, half.half, { code: codeNow(secret) }, FROM))).ms);
  }
  reportTime('what a code of an app adds', median(byCode), 20, beside);
}

/** A page while a backup of so many GB is put back and looked through by the process that does it every day. */
async function benchCheck(runtime: Runtime, dir: string, gigabytes: number): Promise<void> {
  await withRaw(runtime.db, (raw) => {
    const add = raw.prepare(
      `INSERT INTO audit (at, what, subject, changes) SELECT 0, 'bench', hex(randomblob(2000)), '{}' FROM (VALUES (1),(2),(3),(4),(5))`,
    );
    for (let batch = 0; batch < gigabytes * 10; batch += 1)
      raw.transaction(() => Array.from({ length: 5000 }, () => add.run()))();
    raw.pragma('wal_checkpoint(TRUNCATE)');
  });
  const watch = () => WATCH.read(runtime, SYSTEM_VIEWER, { limit: '50' });
  await repeat(5, watch);
  const idle = await repeat(60, watch);
  const child = spawn('node', ['dist/lee.mjs', 'backup-due'], {
    env: {
      ...process.env,
      LEESHORE_DATA_DIR: runtime.settings.dataDir,
      LEESHORE_NOW: new Date(runtime.clock.now()).toISOString(),
      LEESHORE_BACKUP_DIR: join(dir, 'backups'),
      LEESHORE_LOG: 'warn',
    },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  setPriority(child.pid!, constants.priority.PRIORITY_LOW);
  const began = performance.now();
  let code: number | null | undefined;
  child.on('exit', (ended) => (code = ended));
  const beside: number[] = [];
  while (code === undefined) {
    beside.push((await timed(watch)).ms);
    await breathe();
  }
  if (code !== 0) throw new Error(`lee backup-due ended with ${String(code)}`);
  const seconds = ((performance.now() - began) / 1000).toFixed(0);
  for (const [name, p] of [
    ['median', 0.5],
    ['p95', 0.95],
  ] as const)
    report(
      `the Watch beside the check of a backup of ${gigabytes} GB, ${name}`,
      percentile(beside, p) / percentile(idle, p),
      1.3,
      `${percentile(beside, p).toFixed(1)} to ${percentile(idle, p).toFixed(1)} ms, ${beside.length} times in ${seconds} s`,
    );
}

/** @param gigabytes of the backup that is looked through */
export async function benchComingIn(gigabytes = 5): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const runtime = await openBench(dir);
  try {
    await fill(runtime, LARGE);
    for (let n = 0; n < TIMES; n += 1)
      await addAccount(runtime, { given_name: `N${n}`, email: email(n), role: 'mentor', password: PASSWORD });
    await metricsText(runtime);
    const figures = median(await repeat(TIMES, () => metricsText(runtime)));
    reportTime('the page of figures at 20,000 learners', figures, 10, 'as text');
    await benchSecond(runtime);
    await benchProvider(runtime, dir);
    await benchCheck(runtime, dir, gigabytes);
  } finally {
    await runtime.db.destroy();
    rmSync(dir, { recursive: true, force: true });
  }
}
