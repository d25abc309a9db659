/** The server's thread for long work: imports, recalculation, trials and what goes with them. */
import { parentPort, workerData } from 'node:worker_threads';
import { setTimeout as pause } from 'node:timers/promises';
import { lastChange } from '@/data/audit';
import { anyWaiting } from '@/data/feed/xapi/statements';
import { openMailer } from '@/server/contact/mailer';
import { askFlaresAgain } from '@/server/contact/flares';
import { lookForGaps } from '@/server/feed/feed';
import { fetchNext } from '@/server/imports/addresses/addresses';
import { archiveNext } from '@/server/archive/archive';
import { backUpForEver } from '@/server/backup/process';
import { clearBrokenUploads, workOnNext } from '@/server/imports/queue';
import { takeDropped } from '@/server/imports/watched-folder';
import { isDamage, lookForDamage } from '@/server/integrity';
import { makeOwner } from '@/server/owner';
import { eraseAgain } from '@/server/privacy/erased-marks';
import { eraseDue } from '@/server/privacy/erasing';
import { letGo } from '@/server/privacy/retention';
import { makeDue, sendWaiting } from '@/server/reports/send';
import { forgetPages } from '@/server/contact/page-links';
import { clearOldReports, workOnReport } from '@/server/reports/runs';
import { runChecks } from '@/server/item-use/checks';
import { workOnTrial } from '@/server/trial/runs';
import { helperBeside } from '@/server/drift/helper';
import { readPast, recalculate } from '@/server/drift/recalculate';
import { openRuntime, type Runtime } from '@/server/runtime';
import type { WorkerNews } from '@/server/worker-host';
import type { Settings } from '@/server/settings';
import { takeWaiting } from '@/server/feed/xapi/take';

/** How long to wait for news before looking again, in ms. */
const LOOK_AGAIN = 1000;
const AFTER_TROUBLE = 15_000;
/** Events that arrive all the time are derived at most this often. */
const DERIVE_AGAIN = 20_000;
/** How often the feed's rhythm is looked at while nothing new comes. */
const FEED_AGAIN = 60_000;
/** How often the folder is tidied and the database looked through for damage. */
const TIDY_AGAIN = 12 * 3_600_000;
/** How often it is looked whether the days of anything that is kept are over. */
const LET_GO_AGAIN = 600_000;

/** How often the watched folder is looked at. */
const DROPS_AGAIN = 2000;

let wake: () => void = () => undefined;
/** Somebody in the application waits for what was put in a queue. */
let isUrgent = false;
/** Courses whose past somebody waits for. */
let awaited: readonly number[] = [];

function news(): Promise<void> {
  return new Promise((resolve) => {
    wake = resolve;
    setTimeout(resolve, LOOK_AGAIN);
  });
}

/** Lets something through once in a while. */
class Every {
  private last = -Infinity;

  constructor(private readonly ms: number) {}

  isDue(): boolean {
    return performance.now() - this.last >= this.ms;
  }

  note(): void {
    this.last = performance.now();
  }
}

async function workForEver(runtime: Runtime): Promise<never> {
  const owner = makeOwner();
  const [derive, feed, tidy] = [new Every(DERIVE_AGAIN), new Every(FEED_AGAIN), new Every(TIDY_AGAIN)];
  const drops = new Every(DROPS_AGAIN);
  // People and items come and change with a note of it, a file's at its end.
  let settledAt = -1;
  let newData = true;
  for (;;) {
    try {
      if (drops.isDue()) {
        drops.note();
        await takeDropped(runtime);
      }
      const result = await workOnNext(runtime, owner);
      if (result === 'done') {
        newData = true;
        continue;
      }
      if (result === 'again') await pause(AFTER_TROUBLE);
      else {
        const change = await lastChange(runtime.db);
        if (change !== settledAt && (await anyWaiting(runtime.db))) await takeWaiting(runtime);
        settledAt = change;
        if (newData || feed.isDue()) {
          await lookForGaps(runtime);
          feed.note();
          await askFlaresAgain(runtime);
          await eraseDue(runtime);
        }
        const isDue = newData || isUrgent || derive.isDue();
        // What is asked for from here on is for the next round.
        isUrgent = false;
        if ((await recalculate(runtime, { derive: isDue })) === 'derived') derive.note();
        await runChecks(runtime);
        newData = false;
        // Days further back are read while there is nothing else to do: one step, then another look.
        if (await readPast(runtime, awaited)) continue;
        if (tidy.isDue()) {
          tidy.note();
          await clearBrokenUploads(runtime);
          await lookForDamage(runtime, () => pause(5));
        }
      }
    } catch (error) {
      runtime.log.error({ err: error }, 'background work failed, will try again');
      // What cannot be read is looked for at once: whatever else there is to do may never get past it.
      if (isDamage(error)) await lookForDamage(runtime, () => pause(5)).catch(() => undefined);
      await pause(AFTER_TROUBLE);
    }
    await news();
  }
}

/** Trials go on beside everything else, a little at a time: nobody waits for them to end. */
async function tryForEver(runtime: Runtime): Promise<never> {
  const owner = makeOwner();
  for (;;) {
    try {
      if (await workOnTrial(runtime, owner)) continue;
    } catch (error) {
      runtime.log.error({ err: error }, 'work on a trial failed, will try again');
      await pause(AFTER_TROUBLE);
    }
    await pause(LOOK_AGAIN);
  }
}

/** Long reports are made beside everything else, some learners at a time. */
async function reportForEver(runtime: Runtime): Promise<never> {
  const owner = makeOwner();
  const mailer = openMailer(runtime.settings.smtpUrl);
  const tidy = new Every(TIDY_AGAIN);
  for (;;) {
    try {
      if (tidy.isDue()) {
        tidy.note();
        await clearOldReports(runtime);
        await forgetPages(runtime);
      }
      if (await workOnReport(runtime, owner)) continue;
      // Without a mail server nothing is made: what is due goes, late, once there is one.
      if (mailer) {
        await makeDue(runtime, owner);
        await sendWaiting(runtime, mailer);
      }
    } catch (error) {
      runtime.log.error({ err: error }, 'work on a report failed, will try again');
      await pause(AFTER_TROUBLE);
    }
    await pause(LOOK_AGAIN);
  }
}

/** What is kept no more goes, and finished courses are archived, beside everything else, a little at a time. */
async function letGoForEver(runtime: Runtime): Promise<never> {
  const letting = new Every(LET_GO_AGAIN);
  for (;;) {
    try {
      await archiveNext(runtime, letting.isDue());
      if (letting.isDue()) {
        letting.note();
        await letGo(runtime);
      }
    } catch (error) {
      runtime.log.error({ err: error }, 'letting go of what is kept no more failed, will try again');
      await pause(AFTER_TROUBLE);
    }
    await pause(LOOK_AGAIN);
  }
}

/** What is fetched from elsewhere waits on others: nothing else waits for it. */
async function fetchForEver(runtime: Runtime): Promise<never> {
  for (;;) {
    try {
      if (await fetchNext(runtime)) continue;
    } catch (error) {
      runtime.log.error({ err: error }, 'addresses could not be looked at, will try again');
      await pause(AFTER_TROUBLE);
    }
    await pause(LOOK_AGAIN);
  }
}

parentPort?.on('message', ({ readFirst }: WorkerNews) => {
  if (readFirst) awaited = readFirst;
  else isUrgent = true;
  wake();
});
const opened = await openRuntime(workerData as Settings, 'worker');
const runtime: Runtime = { ...opened, helper: helperBeside(import.meta.url, opened) };
await eraseAgain(runtime);
await Promise.all([
  workForEver(runtime),
  tryForEver(runtime),
  reportForEver(runtime),
  fetchForEver(runtime),
  letGoForEver(runtime),
  backUpForEver(runtime),
]);
