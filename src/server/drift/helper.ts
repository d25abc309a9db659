/** The thread that helps with what is derived: started for much of it, ended when there has been none for a while. */
import type { Worker } from 'node:worker_threads';
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
 * A helper in a thread of its own.
 * @param start starts the thread
 * @param onFault told when it dies; what it was asked for is refused, and the next question starts another
 */
export function openHelper(start: () => Worker, onFault: (error: unknown) => void): Helper {
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
      if (waiting.size === 0) timer = setTimeout(() => void opened.terminate(), KEPT).unref();
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
    const id = (last += 1);
    const asked: PortionAsked = { id, kind, portion: portion as never, terms };
    const answer = new Promise<never>((resolve, reject) => waiting.set(id, { resolve, reject }));
    worker.postMessage(asked);
    return answer;
  };
}
