/** Starts the worker threads beside the application and tells them when there is something to do. */
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { runtime } from './runtime';
import type { Settings } from './settings';

/** A thread each for long work and for what is sent, so that neither waits for the other or falls with it. */
const THREADS = ['background', 'outbox'] as const;

const KEY = Symbol.for('lee-shore.workers');
/** The threads that always run, and the one for files, while files are asked for. */
type Threads = Partial<Record<(typeof THREADS)[number], Worker>> & { files?: FileThread };
type Holder = { [KEY]?: Threads };

interface FileThread {
  worker: Worker;
  /** A file is begun, and one has ended: unused for a while, the thread ends and gives its memory back. */
  begin: () => void;
  end: () => void;
}

/** How long the thread for files is kept without any, in ms. */
const FILES_KEPT = 60_000;

// `new Worker(path)` would have Next bundle the file, which scripts/bundle.mjs has made already.
function startThread(name: string, settings: Settings): Worker {
  return Reflect.construct(Worker, [join(process.cwd(), 'dist', `${name}.mjs`), { workerData: settings }]);
}

/** Starts the threads; one that dies is started again after a pause. */
export async function startWorkers(): Promise<void> {
  const { settings, log } = await runtime();
  const holder = globalThis as Holder;
  if (holder[KEY]) return;
  const threads: Threads = (holder[KEY] = {});
  // What the database puts aside goes to the data's own disk: no other folder need be one to write in.
  process.env.SQLITE_TMPDIR ??= resolve(settings.dataDir);
  const start = (name: (typeof THREADS)[number]) => {
    const worker = startThread(name, settings);
    worker.on('error', (error) => log.error({ err: error }, `${name} thread failed`));
    worker.on('exit', (code) => {
      log.warn({ code }, `${name} thread ended, starting another`);
      setTimeout(start, 2000, name);
    });
    threads[name] = worker;
  };
  for (const name of THREADS) start(name);
}

/** The thread in which lists are made into files, started when there is none; null beside no server. */
export async function fileThread(): Promise<FileThread | null> {
  const threads = (globalThis as Holder)[KEY];
  if (!threads) return null;
  if (threads.files) return threads.files;
  const { settings, log } = await runtime();
  if (threads.files) return threads.files;
  const worker = startThread('files', settings);
  let running = 0;
  let timer: NodeJS.Timeout | undefined;
  const thread: FileThread = {
    worker,
    begin: () => {
      running += 1;
      clearTimeout(timer);
    },
    end: () => {
      running -= 1;
      if (running > 0) return;
      timer = setTimeout(() => {
        if (threads.files === thread) threads.files = undefined;
        void worker.terminate();
      }, FILES_KEPT).unref();
    },
  };
  worker.on('error', (error) => log.error({ err: error }, 'files thread failed'));
  worker.on('exit', () => {
    if (threads.files === thread) threads.files = undefined;
  });
  return (threads.files = thread);
}

/** What the thread for long work is told: that something was put in a queue, or whose past somebody waits for. */
export interface WorkerNews {
  /** Courses. */
  readFirst?: readonly number[];
}

/** Something was put in a queue. */
export function wakeWorker(news: WorkerNews = {}): void {
  (globalThis as Holder)[KEY]?.background?.postMessage(news);
}
