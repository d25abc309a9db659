/** `npm run bench` */
import { bundle, install, run } from './env.mjs';

install();
bundle();
run('node', ['dist/bench.mjs', ...process.argv.slice(2)]);
