/**
 * A whole list as a file, read and put together in a thread of its own: however long it is, whoever else asks for a page
 * waits no longer. Each chunk is asked for, so that no more is made than is read.
 */
import { Readable } from 'node:stream';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import type { Layout, ReportDefinition } from '@/core/reports/definition';
import type { Viewer } from '@/data/scope';
import { fileThread } from '../worker-host';
import type { ExportFormat } from './exports';
import { InvalidInput, NotFound, type FieldFault, type Values } from './input';

/** A list that is asked for as a file: for whom, and how. */
interface ListAsked {
  list: string;
  viewer: Viewer;
  values: Values;
  format: ExportFormat;
  chosen?: readonly string[];
}

/** A report that is asked for as a file. */
export interface ReportAsked {
  report: ReportDefinition;
  title: string;
  viewer: Viewer;
  format: ExportFormat | 'pdf';
  layout: Layout;
}

export type FileAsked = ListAsked | ReportAsked;

/** An error, as it goes from thread to thread. */
interface Fault {
  name: string;
  message: string;
  code?: string;
  errors?: FieldFault[];
}

/** What the thread answers: first that it has begun or why not, then a chunk for each that is asked for. */
type Answer = { begun: true } | { chunk: Uint8Array | null } | { fault: Fault };

function asFault(error: unknown): Fault {
  const { name, message, code, errors } = error as Error & Partial<Fault>;
  return { name, message, code, errors };
}

function asError({ name, message, code, errors }: Fault): Error {
  if (name === 'InvalidInput') return new InvalidInput(errors ?? []);
  const error = name === 'NotFound' ? new NotFound() : new Error();
  return Object.assign(error, { name, message, code });
}

/** The thread's side: gives a file chunk by chunk to whoever asked for it. */
export async function giveFile(port: MessagePort, open: () => Promise<Readable>): Promise<void> {
  const say = (answer: Answer) => port.postMessage(answer);
  let file: Readable | null = null;
  port.once('close', () => file?.destroy());
  try {
    file = await open();
    const chunks = file[Symbol.asyncIterator]();
    port.on('message', async () => {
      try {
        const { done, value } = await chunks.next();
        say({ chunk: done ? null : Buffer.from(value) });
        if (done) port.close();
      } catch (error) {
        say({ fault: asFault(error) });
      }
    });
    say({ begun: true });
  } catch (error) {
    say({ fault: asFault(error) });
    port.close();
  }
}

/**
 * The file of a list or report, made in the thread for files; null where there is none, as in a shell.
 * @throws InvalidInput, NotFound
 */
export async function fileFromThread(asked: FileAsked): Promise<Readable | null> {
  const thread = await fileThread();
  if (!thread) return null;
  const { port1: port, port2: theirs } = new MessageChannel();
  const file = new Readable({
    read: () => port.postMessage('more'),
    destroy(error, done) {
      port.close();
      done(error);
    },
  });
  thread.begin();
  file.once('close', thread.end);
  const begun = new Promise<void>((resolve, reject) => {
    port.on('message', (answer: Answer) => {
      if ('begun' in answer) return resolve();
      if ('chunk' in answer) return void file.push(answer.chunk);
      const error = asError(answer.fault);
      reject(error);
      file.destroy(error);
    });
    port.on('close', () => {
      const error = new Error('The thread for files ended');
      reject(error);
      if (!file.readableEnded && !file.destroyed) file.destroy(error);
    });
  });
  // What goes wrong before anybody reads is thrown below; later it is the stream's.
  file.on('error', () => undefined);
  thread.worker.postMessage({ asked, port: theirs }, [theirs]);
  await begun;
  return file;
}
