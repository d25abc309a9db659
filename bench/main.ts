/** `npm run bench`: ratios against a plain baseline in the same run. Times alone mean nothing. */
import { benchAround } from './around';
import { benchArchive } from './archive';
import { benchArriving } from './arriving';
import { benchCalls } from './calls';
import { benchComingIn } from './coming-in';
import { benchDrift } from './drift';
import { benchEngine } from './engine';
import { benchEvidence } from './evidence';
import { benchForeign } from './foreign';
import { benchGrowth } from './growth';
import { benchImport } from './import';
import { benchExport } from './log-export';
import { benchLearners } from './learners';
import { benchPrivacy } from './privacy';
import { benchReports } from './reports';
import { benchSessions } from './sessions';
import { benchShoreline } from './shoreline';
import { benchTrial } from './trial';
import { benchWatch } from './watch';
import { benchWork } from './work';

// A name and a number of rows, in either order.
const asked = process.argv.slice(2);
const rows = Number(asked.find((word) => /^\d+$/.test(word)) ?? 1_000_000);
const only = asked.find((word) => !/^\d+$/.test(word));
const learners = 2000;
const BENCHES: Record<string, () => Promise<void>> = {
  import: () => benchImport(rows, learners),
  foreign: () => benchForeign(Math.min(rows, 200_000), learners),
  watch: () => benchWatch(10_000, rows, learners),
  learners: () => benchLearners(20_000, Math.min(rows, 200_000)),
  shoreline: benchShoreline,
  reports: benchReports,
  around: benchAround,
  privacy: benchPrivacy,
  'coming-in': benchComingIn,
  archive: () => benchArchive(rows, learners),
  sessions: benchSessions,
  work: benchWork,
  drift: benchDrift,
  calls: benchCalls,
  trial: benchTrial,
  evidence: () => benchEvidence(rows),
  export: () => benchExport(rows),
  engine: () => benchEngine(rows),
  growth: () => benchGrowth(rows),
  arriving: () => benchArriving(Math.min(rows, 200_000)),
};
if (only !== undefined && !(only in BENCHES))
  throw new Error(`No bench is called ${only}: ${Object.keys(BENCHES).join(', ')}`);
console.log(`Benchmarks with ${rows} rows and ${learners} learners\n`);
for (const [name, bench] of Object.entries(BENCHES)) if (only === undefined || only === name) await bench();
