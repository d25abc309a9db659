/** The thread that helps with what is derived: started for much of it, ended when there has been none for a while. */
import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { Runtime } from '../runtime';
import type { Helper, PortionKind, PortionTerms } from './portions';

/** What the thread is asked, and what it answers. */
export interface PortionAsked {
  id: number;
  kind: PortionKind;
  portion: never;
  terms: PortionTerms;
}
export type PortionAnswer = { id: number; result: never } | { id: number; fault: string };

/** How long it is kept without work, in ms. */
const KEPT = 10_000;

interface Waiting {
  resolve: (result: never) => void;
  reject: (error: Error) => void;
}

/**
 * A helper for what is run from the bundled files, of which the thread's is one.
 * @param from the address of the file that runs
 * @returns undefined with one processor: it would only take turns
 */
export function helperBeside(from: string, { settings, log }: Pick<Runtime, 'settings' | 'log'>): Helper | undefined {
  if (availableParallelism() === 1) return undefined;
  const start = () => new Worker(new URL('helper.mjs', from), { workerData: settings });
  return openHelper(start, (error) => log.error({ err: error }, 'helping thread failed'));
}

/**
 * A helper in a thread of its own.
 * @param start starts the thread
 * @param onFault told when it dies; what it was asked for is refused, and the next question starts another
 */
function openHelper(start: () => Worker, onFault: (error: unknown) => void): Helper {
  let worker: Worker | null = null;
  let timer: NodeJS.Timeout | undefined;
  let last = 0;
  const waiting = new Map<number, Waiting>();

  function end(error: Error): void {
    worker = null;
    clearTimeout(timer);
    for (const { reject } of waiting.values()) reject(error);
    waiting.clear();
  }

  function open(): Worker {
    const opened = start();
    opened.on('message', (answer: PortionAnswer) => {
      const asked = waiting.get(answer.id);
      waiting.delete(answer.id);
      if ('fault' in answer) asked?.reject(new Error(answer.fault));
      else asked?.resolve(answer.result);
      if (waiting.size > 0) return;
      // Without work it keeps no process from ending.
      opened.unref();
      timer = setTimeout(() => void opened.terminate(), KEPT).unref();
    });
    opened.on('error', onFault);
    opened.on('exit', () => {
      if (worker === opened) end(new Error('The helping thread ended'));
    });
    return opened;
  }

  return (kind, portion, terms) => {
    clearTimeout(timer);
    worker ??= open();
    worker.ref();
    const id = (last += 1);
    const asked: PortionAsked = { id, kind, portion: portion as never, terms };
    const answer = new Promise<never>((resolve, reject) => waiting.set(id, { resolve, reject }));
    worker.postMessage(asked);
    return answer;
  };
}
