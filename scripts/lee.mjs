/** `npm run lee -- …`: never installs or builds anything under an application that is running. */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { bundle, root, run } from './env.mjs';

const program = join(root, 'dist', 'lee.mjs');
if (!existsSync(program)) {
  if (!existsSync(join(root, 'node_modules', 'esbuild'))) {
    console.error('Lee Shore is not installed yet: run npm ci and npm run build first.');
    process.exit(1);
  }
  bundle();
}
run('node', [program, ...process.argv.slice(2)]);
