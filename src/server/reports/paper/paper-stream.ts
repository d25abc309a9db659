/** A document as a stream: reading it drives the writing. */
import { Readable } from 'node:stream';
import { setImmediate as breathe } from 'node:timers/promises';
import type { Paper } from './pages';

/** Bytes that may wait to be read. */
const WAITING = 1_000_000;

/** What is written on some paper as it comes, and what goes wrong in the writing; the paper is finished after it. */
export function paperStream(paper: Paper, write: () => Promise<void>): Readable {
  return Readable.from(drive(paper, write), { objectMode: false });
}

async function* drive(paper: Paper, write: () => Promise<void>): AsyncGenerator<Buffer> {
  const chunks = paper.doc as unknown as Readable;
  const writing = write().then(
    () => paper.finish(),
    (error) => void chunks.destroy(error),
  );
  for await (const chunk of chunks) yield chunk;
  await writing;
}

/** Until what is written has mostly been read. */
export async function caughtUp({ doc }: Paper): Promise<void> {
  const chunks = doc as unknown as Readable;
  do await breathe();
  while (chunks.readableLength > WAITING && !chunks.destroyed);
}
