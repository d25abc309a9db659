/** The thread that works out completion and readings beside the one for long work: it reads, and stores nothing. */
import { parentPort, workerData } from 'node:worker_threads';
import { withRaw } from '@/data/db';
import type { PortionAnswer, PortionAsked } from '@/server/drift/helper';
import { workOut } from '@/server/drift/portions';
import { openRuntime } from '@/server/runtime';
import type { Settings } from '@/server/settings';

const { db } = await openRuntime(workerData as Settings, 'helper');
parentPort!.on('message', ({ id, kind, portion, terms }: PortionAsked) => {
  void withRaw(db, (raw) => workOut(raw, kind, portion, terms)).then(
    (result) => parentPort!.postMessage({ id, result } as PortionAnswer),
    (error: unknown) => parentPort!.postMessage({ id, fault: String(error) } satisfies PortionAnswer),
  );
});
