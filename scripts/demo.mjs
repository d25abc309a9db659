/** `npm run demo`: installs, builds, makes the demo data, starts the stand-ins and the application. */
import { randomUUID } from 'node:crypto';
import { existsSync, rmSync } from 'node:fs';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import { buildIfNeeded, ensureFolder, install, root, run, start } from './env.mjs';

const { values } = parseArgs({ options: { fresh: { type: 'boolean' }, port: { type: 'string' } } });
const port = Number(values.port ?? process.env.PORT ?? 4300);
const [smtp, inbox, sms, campus, meeting, provider, lti] = [2, 3, 4, 5, 6, 7, 8].map((beside) => port + beside);
const dataDir = process.env.LEESHORE_DATA_DIR ?? join(root, 'var', 'demo');
const env = {
  PORT: String(port),
  LEESHORE_DATA_DIR: dataDir,
  LEESHORE_TIMEZONE: process.env.LEESHORE_TIMEZONE ?? 'Europe/Dublin',
  LEESHORE_URL: process.env.LEESHORE_URL ?? `http://127.0.0.1:${port}`,
  LEESHORE_SMTP_URL: `smtp://127.0.0.1:${smtp}`,
  LEESHORE_SMS_URL: `http://127.0.0.1:${sms}`,
  // Good for this run alone: the mail stand-in hands answers in with it.
  LEESHORE_INBOUND_TOKEN: randomUUID(),
  // So is this: the meeting stand-in tells with it who comes and goes.
  LEESHORE_API_TOKEN: process.env.LEESHORE_API_TOKEN ?? randomUUID(),
  LEESHORE_DEMO_INBOX: `http://127.0.0.1:${inbox}`,
  // The platform with LTI is on this machine.
  LEESHORE_PRIVATE_ADDRESSES: 'yes',
};

install();
buildIfNeeded();
if (values.fresh) rmSync(dataDir, { recursive: true, force: true });
const signInsFile = join(dataDir, 'demo.json');
if (!existsSync(signInsFile)) {
  // Nothing, or a making that did not end: begin anew.
  rmSync(dataDir, { recursive: true, force: true });
  ensureFolder(dataDir);
  console.log('Making the demo data …');
  run('node', ['dist/demo-data.mjs'], { env: { ...process.env, ...env, LEESHORE_LOG: 'warn' } });
}
start('node', ['dist/mail.mjs'], {
  MAIL_SMTP_PORT: String(smtp),
  MAIL_HTTP_PORT: String(inbox),
  MAIL_INBOUND_URL: `http://127.0.0.1:${port}/api/v1/replies`,
  LEESHORE_INBOUND_TOKEN: env.LEESHORE_INBOUND_TOKEN,
});
start('node', ['dist/sms.mjs'], { SMS_PORT: String(sms) });
const people = join(dataDir, 'provider.json');
// Demo data of an earlier version has nobody to sign in with.
if (existsSync(people)) {
  Object.assign(env, {
    LEESHORE_OIDC_ISSUER: `http://127.0.0.1:${provider}`,
    LEESHORE_OIDC_CLIENT_ID: 'lee-shore',
    LEESHORE_OIDC_CLIENT_SECRET: randomUUID(),
    LEESHORE_OIDC_NAME: 'Saltholm College',
  });
  start('node', ['dist/provider.mjs'], { ...env, PROVIDER_PORT: String(provider), PROVIDER_FILE: people });
}
const launches = join(dataDir, 'lti.json');
if (existsSync(launches)) start('node', ['dist/lti.mjs'], { ...env, LTI_PORT: String(lti), LTI_FILE: launches });
start('node', ['scripts/start.mjs'], env);

const url = `http://127.0.0.1:${port}`;
for (let ready = false; !ready; await pause(200)) {
  ready = await fetch(`${url}/api/v1/health`).then(
    (answer) => answer.ok,
    () => false,
  );
}
// The application is there to send to.
start('node', ['dist/campus.mjs'], {
  CAMPUS_PORT: String(campus),
  CAMPUS_FILE: join(dataDir, 'campus.json'),
  CAMPUS_XAPI_URL: `${url}/xapi`,
});
start('node', ['dist/meeting.mjs'], {
  MEETING_PORT: String(meeting),
  MEETING_FILE: join(dataDir, 'meeting.json'),
  MEETING_API_URL: `${url}/api/v1`,
  LEESHORE_API_TOKEN: env.LEESHORE_API_TOKEN,
});
const { password, accounts } = JSON.parse(readFileSync(signInsFile, 'utf8'));
console.log(
  `\nLee Shore is on ${url}\nMail arrives on http://127.0.0.1:${inbox}, text messages on http://127.0.0.1:${sms}\nA course platform is at work on http://127.0.0.1:${campus}, a class meets on http://127.0.0.1:${meeting}\nPeople come in from courses on http://127.0.0.1:${lti}, once it is added under Set-up, Platforms\n\nSign in with the password ${password} as`,
);
for (const { email, says } of accounts) console.log(`  ${email.padEnd(34)} ${says}`);
