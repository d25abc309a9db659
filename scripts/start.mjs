/** `npm start`: the application on its data folder. */
import { start } from './env.mjs';

const port = process.env.PORT || '4300';
if (!/^\d{1,5}$/.test(port) || Number(port) > 65_535) {
  console.error(`Lee Shore cannot start with these settings:\n  PORT: is not a port number`);
  process.exit(1);
}
// Memory: a smaller nursery for each thread, and a limit to its heap, below which what is no longer used is looked for
// sooner; two pools for the threads' other memory instead of one for each.
const node = ['--max-semi-space-size=8', '--max-old-space-size=320'];
// What is freed goes back to the system, and large pieces are never kept.
const malloc = { MALLOC_ARENA_MAX: '2', MALLOC_TRIM_THRESHOLD_: '131072', MALLOC_MMAP_THRESHOLD_: '131072' };
const server = ['scripts/serve.mjs', process.env.HOST || '127.0.0.1', port];
start('node', [...node, ...server], { NODE_ENV: 'production', ...malloc });
