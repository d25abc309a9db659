import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import {
  CAMPUS_PORT,
  EMPTY_PORT,
  INBOUND_TOKEN,
  INBOX_PORT,
  LTI_PORT,
  MEETING_PORT,
  NOW,
  PORT,
  PROVIDER_PORT,
  SMS_PORT,
  SMTP_PORT,
  TOKEN,
} from './ports';

/** Makes the demo data for a frozen now, and starts the built application and the stand-ins on it. */
export default async function setUp() {
  const dataDir = mkdtempSync(join(tmpdir(), 'lee-shore-e2e-'));
  // Tests read and write it beside the application, as an operator would.
  process.env.E2E_DATA_DIR = dataDir;
  const env = {
    ...process.env,
    PORT: String(PORT),
    LEESHORE_DATA_DIR: dataDir,
    LEESHORE_NOW: NOW,
    LEESHORE_TIMEZONE: 'Europe/Dublin',
    LEESHORE_API_TOKEN: TOKEN,
    LEESHORE_LOG: 'warn',
    LEESHORE_SMTP_URL: `smtp://127.0.0.1:${SMTP_PORT}`,
    LEESHORE_SMS_URL: `http://127.0.0.1:${SMS_PORT}`,
    LEESHORE_INBOUND_TOKEN: INBOUND_TOKEN,
    LEESHORE_URL: `http://127.0.0.1:${PORT}`,
    LEESHORE_OIDC_ISSUER: `http://127.0.0.1:${PROVIDER_PORT}`,
    LEESHORE_OIDC_CLIENT_ID: 'lee-shore',
    LEESHORE_OIDC_CLIENT_SECRET: 'a-secret-of-the-tests',
    LEESHORE_OIDC_NAME: 'Saltholm College',
    LEESHORE_DEMO_INBOX: `http://127.0.0.1:${INBOX_PORT}`,
    LEESHORE_PRIVATE_ADDRESSES: 'yes',
  };
  const made = spawnSync('node', ['dist/demo-data.mjs'], { env, stdio: 'inherit' });
  if (made.status !== 0) throw new Error('The demo data could not be made');
  const empty = mkdtempSync(join(tmpdir(), 'lee-shore-empty-'));
  const plain = {
    ...env,
    LEESHORE_DEMO_INBOX: '',
    LEESHORE_URL: '',
    LEESHORE_OIDC_ISSUER: '',
    LEESHORE_OIDC_CLIENT_ID: '',
    LEESHORE_OIDC_CLIENT_SECRET: '',
    LEESHORE_SMTP_URL: '',
    LEESHORE_SMS_URL: '',
  };
  const children: ChildProcess[] = [
    spawn('node', ['dist/mail.mjs'], {
      env: {
        ...env,
        MAIL_SMTP_PORT: String(SMTP_PORT),
        MAIL_HTTP_PORT: String(INBOX_PORT),
        MAIL_INBOUND_URL: `http://127.0.0.1:${PORT}/api/v1/replies`,
      },
      stdio: 'inherit',
    }),
    spawn('node', ['dist/provider.mjs'], {
      env: { ...env, PROVIDER_PORT: String(PROVIDER_PORT), PROVIDER_FILE: join(dataDir, 'provider.json') },
      stdio: 'inherit',
    }),
    spawn('node', ['dist/lti.mjs'], {
      env: { ...env, LTI_PORT: String(LTI_PORT), LTI_FILE: join(dataDir, 'lti.json') },
      stdio: 'inherit',
    }),
    spawn('node', ['dist/sms.mjs'], { env: { ...env, SMS_PORT: String(SMS_PORT) }, stdio: 'inherit' }),
    // At rest until a test has it work.
    spawn('node', ['dist/campus.mjs'], {
      env: {
        ...env,
        CAMPUS_PORT: String(CAMPUS_PORT),
        CAMPUS_FILE: join(dataDir, 'campus.json'),
        CAMPUS_XAPI_URL: `http://127.0.0.1:${PORT}/xapi`,
        CAMPUS_PAUSED: '1',
      },
      stdio: 'inherit',
    }),
    spawn('node', ['dist/meeting.mjs'], {
      env: {
        ...env,
        MEETING_PORT: String(MEETING_PORT),
        MEETING_FILE: join(dataDir, 'meeting.json'),
        MEETING_API_URL: `http://127.0.0.1:${PORT}/api/v1`,
        MEETING_EVERY_MS: '300',
        MEETING_PAUSED: '1',
      },
      stdio: 'inherit',
    }),
    spawn('node', ['scripts/start.mjs'], { env, stdio: 'inherit' }),
    spawn('node', ['scripts/start.mjs'], {
      env: { ...plain, PORT: String(EMPTY_PORT), LEESHORE_DATA_DIR: empty },
      stdio: 'inherit',
    }),
  ];
  await Promise.all([PORT, EMPTY_PORT].map(ready));
  return () => {
    for (const child of children) child.kill('SIGTERM');
    for (const folder of [dataDir, empty]) rmSync(folder, { recursive: true, force: true });
  };
}

async function ready(port: number) {
  for (let tries = 0; tries < 300; tries += 1) {
    const ok = await fetch(`http://127.0.0.1:${port}/api/v1/health`).then(
      (answer) => answer.ok,
      () => false,
    );
    if (ok) return;
    await pause(200);
  }
  throw new Error(`Nothing answers on port ${port}`);
}
