/** `npm run bench`: ratios against a plain baseline in the same run. Times alone mean nothing. */
import { benchArriving } from './arriving';
import { benchEngine } from './engine';
import { benchEvidence } from './evidence';
import { benchImport } from './import';
import { benchExport } from './log-export';
import { benchLearners } from './learners';
import { benchShoreline } from './shoreline';
import { benchWatch } from './watch';

const rows = Number(process.argv[2] ?? 1_000_000);
const learners = 2000;
const BENCHES: Record<string, () => Promise<void>> = {
  import: () => benchImport(rows, learners),
  watch: () => benchWatch(10_000, rows, learners),
  learners: () => benchLearners(20_000, Math.min(rows, 200_000)),
  shoreline: benchShoreline,
  evidence: () => benchEvidence(rows),
  export: () => benchExport(rows),
  engine: () => benchEngine(rows),
  arriving: () => benchArriving(Math.min(rows, 200_000)),
};
const only = process.argv[3];
console.log(`Benchmarks with ${rows} rows and ${learners} learners\n`);
for (const [name, bench] of Object.entries(BENCHES)) if (!only || only === name) await bench();
