/** `npm run lee -- …` */
import { bundle, install, run } from './env.mjs';

install();
bundle();
run('node', ['dist/lee.mjs', ...process.argv.slice(2)]);
