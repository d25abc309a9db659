/** Starts the worker thread beside the application and tells it when there is something to do. */
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { runtime } from './runtime';

const KEY = Symbol.for('lee-shore.worker');
type Holder = { [KEY]?: Worker };

/** Starts the worker; one that dies is started again after a pause. */
export async function startWorker(): Promise<void> {
  const { settings, log } = await runtime();
  const holder = globalThis as Holder;
  if (holder[KEY]) return;
  // What the database puts aside goes to the data's own disk: no other folder need be one to write in.
  process.env.SQLITE_TMPDIR ??= resolve(settings.dataDir);
  const start = () => {
    // `new Worker(path)` would have Next bundle the file, which scripts/bundle.mjs has made already.
    const file = join(process.cwd(), 'dist', 'background.mjs');
    const worker: Worker = Reflect.construct(Worker, [file, { workerData: settings }]);
    worker.on('error', (error) => log.error({ err: error }, 'worker thread failed'));
    worker.on('exit', (code) => {
      log.warn({ code }, 'worker thread ended, starting another');
      setTimeout(start, 2000);
    });
    holder[KEY] = worker;
  };
  start();
}

/** What the worker is told: that something was put in a queue, or whose past somebody waits for. */
export interface WorkerNews {
  /** Courses. */
  readFirst?: readonly number[];
}

/** Something was put in a queue. */
export function wakeWorker(news: WorkerNews = {}): void {
  (globalThis as Holder)[KEY]?.postMessage(news);
}
