/** The server's thread for what is sent, and for what platforms are asked: no import, however large or broken, keeps a message waiting. */
import { parentPort, workerData } from 'node:worker_threads';
import { settleInterrupted } from '@/data/contact/messages';
import { openCarriers, openChannels, sendForEver } from '@/server/contact/outbox';
import { openRuntime } from '@/server/runtime';
import { sendLinksForEver } from '@/server/staff/password-links';
import { readRostersForEver } from '@/server/staff/platform/rosters';
import type { Settings } from '@/server/settings';

const runtime = await openRuntime(workerData as Settings, 'outbox');
parentPort?.postMessage('ready');
await settleInterrupted(runtime.db);
const carriers = openCarriers(runtime.settings);
// A lane for each channel, so that neither waits for the other.
await Promise.all([
  ...openChannels(carriers).map((channel) => sendForEver(runtime, carriers, channel)),
  sendLinksForEver(runtime),
  readRostersForEver(runtime),
]);
