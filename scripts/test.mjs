/** `npm test`: installs everything, then lint, types, unit, integration, build, end-to-end. Ends with a count. */
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { stripVTControlCharacters } from 'node:util';
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

/** Runs a stage; `count` reads what passed and failed from the report that it writes. */
function stage(name, command, args, { env = {}, report, count } = {}) {
  console.log(`\n== ${name}`);
  const began = Date.now();
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  // What broke off before its end has no report.
  note(name, began, status, report && existsSync(report) ? count(JSON.parse(readFileSync(report, 'utf8'))) : undefined);
  if (status !== 0) finish();
}

/** Runs stages beside one another, each one's words in a piece as it ends. */
async function stagesAtOnce(stages) {
  const began = Date.now();
  await Promise.all(
    stages.map(async ([name, command, args]) => {
      const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
      let said = '';
      for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece) => (said += piece));
      const [status] = await once(child, 'close');
      console.log(`\n== ${name}\n${said}`);
      note(name, began, status);
    }),
  );
  if (results.some(({ ok }) => !ok)) finish();
}

function note(name, began, status, counted = { passed: 0, failed: 0, skipped: 0, faults: [] }) {
  const failed = status !== 0 ? Math.max(1, counted.failed) : counted.failed;
  results.push({ name, ok: status === 0, seconds: Math.round((Date.now() - began) / 1000), ...counted, failed });
}

function vitestCount({ numPassedTests, numFailedTests, numPendingTests, testResults }) {
  const faults = testResults
    .flatMap(({ assertionResults }) => assertionResults)
    .filter(({ status }) => status === 'failed')
    .map(({ fullName, failureMessages }) => `failed: ${fullName}\n${begins(failureMessages[0])}`);
  return { passed: numPassedTests, failed: numFailedTests, skipped: numPendingTests, faults };
}

/** Tests that failed at a try, each with what went wrong at it. */
function faultsOf(suites) {
  return suites.flatMap(({ suites: inner = [], specs = [] }) => [
    ...specs.flatMap(({ title, file, tests }) =>
      tests.flatMap(({ status, results: tries }) =>
        tries
          .filter(({ error }) => error)
          .map(({ error }) => {
            const which = status === 'flaky' ? 'only at the second try' : 'failed';
            return `${which}: ${title} (${file}:${error.location?.line ?? '?'})\n${begins(error.message)}`;
          }),
      ),
    ),
    ...faultsOf(inner),
  ]);
}

/** How a message begins: six lines without colours. */
const begins = (message = '') =>
  stripVTControlCharacters(message)
    .split('\n')
    .filter((line) => line.trim() !== '')
    .slice(0, 6)
    .map((line) => `         ${line.slice(0, 300)}`)
    .join('\n');

function playwrightCount({ stats: { expected, unexpected, flaky, skipped }, suites }) {
  return { passed: expected + flaky, failed: unexpected, skipped, faults: faultsOf(suites) };
}

function finish() {
  rmSync(reports, { recursive: true, force: true });
  console.log('\n== Summary');
  for (const { name, ok, seconds, passed, faults } of results) {
    console.log(
      `${ok ? 'ok    ' : 'FAILED'} ${name.padEnd(12)} ${String(seconds).padStart(4)} s${passed ? `, ${passed} passed` : ''}`,
    );
    for (const fault of faults.slice(0, 20)) console.log(`       ${fault}`);
  }
  const sum = (key) => results.reduce((total, result) => total + result[key], 0);
  const skipped = sum('skipped') ? `, ${sum('skipped')} skipped` : '';
  console.log(`${sum('passed')} passed, ${sum('failed')} failed${skipped}`);
  process.exit(results.every((result) => result.ok) ? 0 : 1);
}

install();
ensureChromium();
bundle();
await stagesAtOnce([
  ['lint', 'npm', ['run', 'lint']],
  ['format', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']],
  ['types', 'npm', ['run', '--silent', 'types']],
]);
for (const project of ['unit', 'client', 'integration']) {
  const report = join(reports, `${project}.json`);
  const reporters = ['--reporter=default', '--reporter=json', `--outputFile.json=${report}`];
  stage(project, 'npx', ['vitest', 'run', '--project', project, ...reporters], { report, count: vitestCount });
}
stage('build', 'npx', ['next', 'build']);
const report = join(reports, 'e2e.json');
const env = { PLAYWRIGHT_JSON_OUTPUT_NAME: report };
stage('end-to-end', 'npx', ['playwright', 'test'], { env, report, count: playwrightCount });
finish();
