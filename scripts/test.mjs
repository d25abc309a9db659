/** `npm test`: installs everything, then lint, types, unit, integration, build, end-to-end. Ends with a count. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bundle, install, root, run } from './env.mjs';

const CHROMIUM = ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];

/** Debian's Chromium, installed where apt-get is there and it is missing. */
function ensureChromium() {
  if (process.env.CHROMIUM_PATH || CHROMIUM.some(existsSync)) return;
  const quiet = { stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } };
  if (spawnSync('apt-get', ['--version'], { stdio: 'ignore' }).status !== 0) {
    console.error('Chromium is missing and there is no apt-get to install it. Install it, or set CHROMIUM_PATH.');
    process.exit(1);
  }
  console.log('Installing Chromium …');
  run('apt-get', ['update', '-qq'], quiet);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium'], quiet);
}

const results = [];
const reports = mkdtempSync(join(tmpdir(), 'lee-shore-test-'));

/** Runs a stage; `count` reads how many tests passed and failed from its report. */
function stage(name, command, args, { env = {}, count } = {}) {
  console.log(`\n== ${name}`);
  const began = Date.now();
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  const counted = count?.() ?? { passed: 0, failed: 0, skipped: 0 };
  if (status !== 0 && counted.failed === 0) counted.failed = 1;
  results.push({ name, ok: status === 0, seconds: Math.round((Date.now() - began) / 1000), ...counted });
  if (status !== 0) finish();
}

function vitestCount(file) {
  return () => {
    const { numPassedTests, numFailedTests, numPendingTests } = JSON.parse(readFileSync(file, 'utf8'));
    return { passed: numPassedTests, failed: numFailedTests, skipped: numPendingTests };
  };
}

/** Titles of tests that passed at the second try alone. */
function flakyOf(suites) {
  return suites.flatMap(({ suites: inner = [], specs = [] }) => [
    ...specs.filter(({ tests }) => tests.some(({ status }) => status === 'flaky')).map(({ title }) => title),
    ...flakyOf(inner),
  ]);
}

function playwrightCount(file) {
  return () => {
    const { stats, suites } = JSON.parse(readFileSync(file, 'utf8'));
    const { expected, unexpected, flaky, skipped } = stats;
    return { passed: expected + flaky, failed: unexpected, skipped, again: flakyOf(suites) };
  };
}

function finish() {
  rmSync(reports, { recursive: true, force: true });
  console.log('\n== Summary');
  for (const { name, ok, seconds, passed, again = [] } of results) {
    console.log(
      `${ok ? 'ok    ' : 'FAILED'} ${name.padEnd(12)} ${String(seconds).padStart(4)} s${passed ? `, ${passed} passed` : ''}`,
    );
    for (const title of again) console.log(`       only at the second try: ${title}`);
  }
  const sum = (key) => results.reduce((total, result) => total + result[key], 0);
  const skipped = sum('skipped') ? `, ${sum('skipped')} skipped` : '';
  console.log(`${sum('passed')} passed, ${sum('failed')} failed${skipped}`);
  process.exit(results.every((result) => result.ok) ? 0 : 1);
}

install();
ensureChromium();
bundle();
stage('lint', 'npm', ['run', 'lint']);
stage('format', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']);
stage('types', 'npm', ['run', '--silent', 'types']);
for (const project of ['unit', 'client', 'integration']) {
  const file = join(reports, `${project}.json`);
  stage(
    project,
    'npx',
    ['vitest', 'run', '--project', project, '--reporter=default', '--reporter=json', `--outputFile.json=${file}`],
    {
      count: vitestCount(file),
    },
  );
}
stage('build', 'npx', ['next', 'build']);
const e2e = join(reports, 'e2e.json');
stage('end-to-end', 'npx', ['playwright', 'test'], {
  env: { PLAYWRIGHT_JSON_OUTPUT_NAME: e2e },
  count: playwrightCount(e2e),
});
finish();
