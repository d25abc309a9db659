/** Imports as the API and the page show them. */
import { createReadStream } from 'node:fs';
import { open, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import Papa from 'papaparse';
import { findRun, type ImportRun } from '@/data/imports/import-runs';
import { NotFound } from '../request/input';
import type { Runtime } from '../runtime';
import { rejectsPath } from './run';

const NOTHING_MADE = { learners: 0, enrolments: 0, courses: 0, items: 0 };

export function showRun(run: ImportRun) {
  const { id, kind, state, read, accepted, duplicate, rejected, unmatched, error, derived, to_derive } = run;
  const deriving = state === 'running' && to_derive !== null ? { done: derived, total: to_derive } : null;
  // In a meeting's list whoever nobody knows waits with the session.
  const waiting = run.waiting + (run.plan !== null && run.kind === 'presence' ? unmatched : 0);
  const made = JSON.parse(run.made) as Record<string, number>;
  return {
    id,
    kind,
    state,
    read,
    accepted,
    duplicate,
    rejected,
    unmatched,
    error,
    deriving,
    made: { ...NOTHING_MADE, ...made },
    waiting,
  };
}

/** @throws NotFound */
export async function requireRun(runtime: Runtime, id: string): Promise<ImportRun> {
  const run = /^\d{1,15}$/.test(id) ? await findRun(runtime.db, Number(id)) : null;
  if (!run) throw new NotFound('No such import');
  return run;
}

/** The rejected rows as CSV, streamed from disk; only what whole batches have counted. */
export async function rejectsStream(runtime: Runtime, run: ImportRun): Promise<ReadableStream> {
  const path = rejectsPath(runtime, run.id);
  const exists = await stat(path).catch(() => null);
  if (!exists || run.rejects_bytes === 0) return new Response('line,field,reason\r\n').body!;
  return Readable.toWeb(createReadStream(path, { end: run.rejects_bytes - 1 })) as ReadableStream;
}

/** The first rejected rows, for the screen: line, field, reason and the row's own cells. */
export async function firstRejects(runtime: Runtime, run: ImportRun, count: number): Promise<string[][]> {
  if (run.rejects_bytes === 0) return [];
  const file = await open(rejectsPath(runtime, run.id)).catch(() => null);
  if (!file) return [];
  try {
    const head = Buffer.alloc(Math.min(run.rejects_bytes, count * 2000));
    const { bytesRead } = await file.read(head, 0, head.length, 0);
    const parsed = Papa.parse<string[]>(head.subarray(0, bytesRead).toString('utf8'), {
      preview: count + 1,
      skipEmptyLines: true,
    });
    return parsed.data;
  } finally {
    await file.close();
  }
}
