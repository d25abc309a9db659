import { text } from 'node:stream/consumers';
import { Readable } from 'node:stream';
import type { MessagePort } from 'node:worker_threads';
import { afterEach, describe, expect, it } from 'vitest';
import { fileFromThread, giveFile, type FileAsked } from './file-thread';
import { InvalidInput, NotFound } from './input';

const KEY = Symbol.for('lee-shore.workers');
const ASKED = { list: 'learners', viewer: { staffId: 1 }, values: {}, format: 'csv' } as unknown as FileAsked;

/** A thread that gives a file, as the real one does. */
function threadWith(open: (asked: FileAsked) => Promise<Readable>) {
  let running = 0;
  const worker = {
    postMessage: ({ asked, port }: { asked: FileAsked; port: MessagePort }) => void giveFile(port, () => open(asked)),
  };
  const files = { worker, begin: () => (running += 1), end: () => (running -= 1) };
  (globalThis as Record<symbol, unknown>)[KEY] = { files };
  return { running: () => running };
}
afterEach(() => {
  delete (globalThis as Record<symbol, unknown>)[KEY];
});

describe('a file from its thread', () => {
  it('is the file chunk by chunk, and no more is made than is read', async () => {
    let made = 0;
    const thread = threadWith(async () =>
      Readable.from(
        (async function* () {
          for (; made < 500; made += 1) yield 'x'.repeat(10_000);
        })(),
        { objectMode: false },
      ),
    );
    const file = (await fileFromThread(ASKED))!;
    expect(thread.running()).toBe(1);
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(made).toBeLessThan(50);
    expect(await text(file)).toBe('x'.repeat(5_000_000));
    await new Promise((resolve) => setTimeout(resolve, 10));
    expect(thread.running()).toBe(0);
  });

  it('is none beside no server', async () => {
    expect(await fileFromThread(ASKED)).toBeNull();
  });

  it('says what was wrong with what was asked for', async () => {
    const errors = [{ field: 'sort', message: 'is not one of name' }];
    threadWith(async () => {
      throw new InvalidInput(errors);
    });
    await expect(fileFromThread(ASKED)).rejects.toMatchObject({ name: 'InvalidInput', errors });
    threadWith(async () => {
      throw new NotFound('No such course');
    });
    const refused = fileFromThread(ASKED);
    await expect(refused).rejects.toBeInstanceOf(NotFound);
    await expect(refused).rejects.toThrow('No such course was found here.');
  });

  it('that breaks off halfway ends in an error, not as if it were whole', async () => {
    const thread = threadWith(async () =>
      Readable.from(
        (async function* () {
          yield 'beginning';
          throw Object.assign(new Error('disk'), { code: 'SQLITE_IOERR' });
        })(),
        { objectMode: false },
      ),
    );
    const file = (await fileFromThread(ASKED))!;
    await expect(text(file)).rejects.toMatchObject({ code: 'SQLITE_IOERR' });
    expect(thread.running()).toBe(0);
  });

  it('that nobody reads to its end is let go of', async () => {
    const source = Readable.from(['one', 'two', 'three'], { objectMode: false });
    const thread = threadWith(async () => source);
    const file = (await fileFromThread(ASKED))!;
    file.destroy();
    await new Promise((resolve) => setTimeout(resolve, 50));
    expect(source.destroyed).toBe(true);
    expect(thread.running()).toBe(0);
  });
});
