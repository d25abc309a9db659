/** Files of other systems beside the same as our own: a log of names, a workbook, a wide gradebook; and recognising a large file. */
import { createReadStream, createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { Readable } from 'node:stream';
import { finished, pipeline } from 'node:stream/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { recogniseFile } from '@/core/imports/recognise-file';
import { findRun } from '@/data/imports/import-runs';
import { workOnNext } from '@/server/imports/queue';
import { readHead } from '@/server/imports/read-file';
import { receiveFile } from '@/server/imports/receive';
import { makeOwner } from '@/server/owner';
import { workbook } from '@/server/request/xlsx';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { logRows, writeLog } from './data';
import { filled } from './import';
import { report, timed } from './measure';

/** A log as another system saves it: full names, titles, the course by its title. */
function* foreignRows(learners: number, rows: number): Generator<string[]> {
  for (const { at, learner, item, action } of logRows(learners, rows)) {
    const course = Math.floor(learner / 50);
    const time = new Date(at).toISOString().slice(0, 19).replace('T', ' ');
    const title = item === null ? '' : `Item ${item}`;
    yield [
      `${time}Z`,
      `Family${learner % 977}, Given${learner}`,
      `b${learner}@learner.example`,
      `Course ${course}`,
      title,
      String(action),
    ];
  }
}

const HEADING = ['Date', 'Full name', 'Mail', 'Course', 'Where', 'What'];

async function writeForeign(path: string, learners: number, rows: number): Promise<void> {
  const file = createWriteStream(path);
  let text = `${HEADING.join(';')}\n`;
  for (const row of foreignRows(learners, rows)) {
    text += `${row.join(';')}\n`;
    if (text.length > 1_000_000) {
      if (!file.write(text)) await once(file, 'drain');
      text = '';
    }
  }
  file.end(text);
  await finished(file);
}

function* inChunks<T>(rows: Iterable<T>, size: number): Generator<T[]> {
  let chunk: T[] = [];
  for (const row of rows) {
    chunk.push(row);
    if (chunk.length < size) continue;
    yield chunk;
    chunk = [];
  }
  if (chunk.length > 0) yield chunk;
}

/** Brings a file in, from the first byte to the last row; ms. */
async function bringIn(runtime: Runtime, kind: string, path: string): Promise<number> {
  const { ms, value } = await timed(async () => {
    const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind }, createReadStream(path));
    await workOnNext(runtime, makeOwner());
    return findRun(runtime.db, id);
  });
  if (value?.state !== 'done' || value.rejected + value.waiting > 0)
    throw new Error(
      `ended as ${value?.state}: ${value?.rejected} rejected, ${value?.waiting} waiting, ${value?.error}`,
    );
  return ms;
}

/** Times bringing a file into a new installation; an outline before it is not timed. */
type InFresh = (name: string, kind: string, path: string, outline?: string) => Promise<number>;

export async function benchForeign(rows: number, learners: number): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  const seconds = (ms: number) => `${(ms / 1000).toFixed(1)} s`;
  const inFresh: InFresh = async (name, kind, path, outline) => {
    const runtime = await filled(join(dir, name), learners);
    try {
      if (outline) await bringIn(runtime, 'outline', outline);
      return await bringIn(runtime, kind, path);
    } finally {
      await runtime.db.destroy();
    }
  };
  try {
    const [ours, theirs, sheet] = ['ours.csv', 'theirs.csv', 'theirs.xlsx'].map((name) => join(dir, name));
    await writeLog(ours, learners, rows);
    await writeForeign(theirs, learners, rows);
    await pipeline(
      Readable.from(workbook('Log', HEADING, inChunks(foreignRows(learners, rows), 5000))),
      createWriteStream(sheet),
    );
    const own = await inFresh('ours', 'access-log', ours);
    const named = await inFresh('theirs', 'auto', theirs);
    const xlsx = await inFresh('sheet', 'auto', sheet);
    report(
      `a log of names of ${rows} rows, beside ours`,
      named / own,
      1.3,
      `${seconds(named)} against ${seconds(own)}`,
    );
    report(
      'the same as a workbook, beside the same as text',
      xlsx / named,
      4,
      `${seconds(xlsx)} against ${seconds(named)}`,
    );
    await benchGradebook(dir, inFresh);
    const { ms } = await timed(async () => {
      const { rows: head, delimiter } = await readHead(theirs);
      return recogniseFile(head, delimiter);
    });
    console.log(`     recognising it reads 2 MB at the most: ${ms.toFixed(0)} ms`);
  } finally {
    rmSync(dir, { recursive: true });
  }
}

/** 2,000 people in courses of 50 by 150 items each: a wide gradebook beside the same scores, a row each. */
async function benchGradebook(dir: string, inFresh: InFresh): Promise<void> {
  const [people, items] = [50, 150];
  const score = (person: number, item: number) => String((person * 7 + item * 3) % 20);
  const title = (item: number) => `Item ${item}`;
  const wide = [`Mail,Course,${Array.from({ length: items }, (_, i) => `${title(i)} (20)`).join(',')}`];
  const long = ['learner_id,course,item_id,attempt,score,points,graded_at'];
  for (let person = 0; person < people * 40; person += 1) {
    const course = `C${Math.floor(person / people)}`;
    wide.push(
      `b${person}@learner.example,${course},${Array.from({ length: items }, (_, i) => score(person, i)).join(',')}`,
    );
    for (let i = 0; i < items; i += 1)
      long.push(`B${person},${course},${course}-${i},1,${score(person, i)},20,2026-11-01T10:00:00Z`);
  }
  const outline = ['course,item_id,item,kind,points'];
  for (let course = 0; course < 40; course += 1)
    for (let i = 0; i < items; i += 1) outline.push(`C${course},C${course}-${i},${title(i)},assignment,20`);
  const [widePath, longPath, outlinePath] = ['wide.csv', 'long.csv', 'outline.csv'].map((name) => join(dir, name));
  for (const [path, lines] of [
    [widePath, wide],
    [longPath, long],
    [outlinePath, outline],
  ] as const) {
    const file = createWriteStream(path);
    file.end(`${lines.join('\n')}\n`);
    await finished(file);
  }
  const results = await inFresh('long', 'results', longPath, outlinePath);
  const gradebook = await inFresh('wide', 'auto', widePath, outlinePath);
  report(
    'a wide gradebook beside the same results',
    gradebook / results,
    2,
    `${gradebook.toFixed(0)} ms against ${results.toFixed(0)}`,
  );
}
