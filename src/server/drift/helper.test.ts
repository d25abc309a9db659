import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readSettings } from '../settings';
import { helperBeside } from './helper';

/** A thread that says how often it was asked, refuses the second time, and dies of a question about readings. */
const THREAD = `import { parentPort } from 'node:worker_threads';
let asked = 0;
parentPort.on('message', ({ id, kind }) => {
  if (kind === 'readings') throw new Error('out of memory');
  asked += 1;
  parentPort.postMessage(asked === 2 ? { id, fault: 'not now' } : { id, result: asked });
});
`;
const TERMS = { zone: 'UTC', now: 0 };
let dir: string;

beforeAll(() => {
  dir = mkdtempSync(join(tmpdir(), 'lee-shore-'));
  writeFileSync(join(dir, 'helper.mjs'), THREAD);
});
afterAll(() => rmSync(dir, { recursive: true }));

describe.skipIf(availableParallelism() === 1)('a helper in a thread of its own', () => {
  it('answers, refuses, dies and is started again, and nobody who waits is forgotten', async () => {
    const told: unknown[] = [];
    const log = { error: (what: { err: Error }) => void told.push(what.err.message) };
    const helper = helperBeside(pathToFileURL(join(dir, 'any.mjs')).href, {
      settings: readSettings({}),
      log: log as never,
    })!;
    const completion = () => helper('completion', [1], TERMS);
    expect(await completion()).toBe(1);
    await expect(completion()).rejects.toThrow('not now');
    expect(await completion()).toBe(3);
    const waiting = [helper('readings', { groups: [], today: 0 }, TERMS), completion()];
    expect((await Promise.allSettled(waiting)).map(({ status }) => status)).toEqual(['rejected', 'rejected']);
    expect(told).toEqual(['out of memory']);
    // Another thread, which counts from the beginning.
    expect(await completion()).toBe(1);
  });
});
