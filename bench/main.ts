/** `npm run bench`: ratios against a plain baseline in the same run. Times alone mean nothing. */
import { benchImport } from './import';
import { benchWatch } from './watch';

const rows = Number(process.argv[2] ?? 1_000_000);
const learners = 2000;
console.log(`Benchmarks with ${rows} rows and ${learners} learners\n`);
const only = process.argv[3];
if (only !== 'watch') await benchImport(rows, learners);
if (only !== 'import') await benchWatch(10_000, rows, learners);
