/** What the start scripts share. Plain Node: it runs before anything is installed. */
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
process.env.NEXT_TELEMETRY_DISABLED = '1';

/** Runs a command and stops everything when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.status !== 0) process.exit(result.status ?? 1);
}

/** Installs the packages of the lock file when they are not there, or were another lock file's. */
export function install() {
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const mark = join(root, 'node_modules', '.lock-hash');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  run('npm', ['ci', '--no-audit', '--no-fund']);
  writeFileSync(mark, lock);
}

function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return Math.max(stat.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

/** Bundles what runs outside Next; quick, so always anew. */
export function bundle() {
  run('node', ['scripts/bundle.mjs']);
}

/** Builds when there is no build, or a source is newer than it. */
export function buildIfNeeded() {
  const built = join(root, '.next', 'BUILD_ID');
  const sources = ['src', 'demo', 'stand-ins', 'package-lock.json', 'next.config.mjs'].map((name) => join(root, name));
  bundle();
  if (existsSync(built) && statSync(built).mtimeMs > Math.max(...sources.map(newest))) return;
  run('npx', ['next', 'build']);
}

/** Starts something that goes on, and ends it when this script ends. */
export function start(command, args, env) {
  const child = spawn(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
  const end = () => child.kill('SIGTERM');
  process.on('exit', end);
  for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => process.exit(0));
  child.on('exit', (code) => process.exit(code ?? 0));
  return child;
}

export function ensureFolder(path) {
  mkdirSync(path, { recursive: true });
}
