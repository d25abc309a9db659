/** The server's worker thread: imports, recalculation and the outbox. */
import { parentPort, workerData } from 'node:worker_threads';
import { setTimeout as pause } from 'node:timers/promises';
import { settleInterrupted } from '@/data/messages';
import { makeOwner, workOnNext } from '@/server/imports/queue';
import { runChecks } from '@/server/checks';
import { openCarriers, sendDue } from '@/server/outbox';
import { fillPast, recalculate } from '@/server/recalculate';
import { openRuntime, type Runtime } from '@/server/runtime';
import type { Settings } from '@/server/settings';

/** How long to wait for news before looking again, in ms. */
const LOOK_AGAIN = 1000;
const AFTER_TROUBLE = 15_000;

let wake: () => void = () => undefined;

function news(): Promise<void> {
  return new Promise((resolve) => {
    wake = resolve;
    setTimeout(resolve, LOOK_AGAIN);
  });
}

async function workForEver(runtime: Runtime): Promise<never> {
  const owner = makeOwner();
  // After a start and after each import there may be a past that has not been read.
  let newData = true;
  for (;;) {
    try {
      const result = await workOnNext(runtime, owner);
      if (result === 'done') {
        newData = true;
        continue;
      }
      if (result === 'again') await pause(AFTER_TROUBLE);
      else {
        await recalculate(runtime);
        await runChecks(runtime);
        if (newData) await fillPast(runtime);
        newData = false;
      }
    } catch (error) {
      runtime.log.error({ err: error }, 'background work failed, will try again');
      await pause(AFTER_TROUBLE);
    }
    await news();
  }
}

async function sendForEver(runtime: Runtime): Promise<never> {
  await settleInterrupted(runtime.db);
  const carriers = openCarriers(runtime.settings);
  for (;;) {
    try {
      while ((await sendDue(runtime, carriers)) > 0);
    } catch (error) {
      runtime.log.error({ err: error }, 'outbox failed, will try again');
    }
    await pause(LOOK_AGAIN);
  }
}

parentPort?.on('message', () => wake());
const runtime = await openRuntime(workerData as Settings);
parentPort?.postMessage('ready');
await Promise.all([workForEver(runtime), sendForEver(runtime)]);
