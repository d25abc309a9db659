/** An institution brought in by the real importer, with its log as a file beside it: what the engine reads raw. */
import { once } from 'node:events';
import { createReadStream, createWriteStream } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import { findRun } from '@/data/imports/import-runs';
import { workOnNext } from '@/server/imports/queue';
import { receiveFile } from '@/server/imports/receive';
import { makeOwner } from '@/server/owner';
import { openRuntime, type Runtime } from '@/server/runtime';
import { readSettings } from '@/server/settings';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { ACTIONS, NOW, logRows } from './data';

export interface Institution {
  learners: number;
  courses: number;
  /** Courses that each learner is in. */
  coursesEach: number;
  rows: number;
}

const ITEMS = 60;
const GROUPS = ['A', 'B', 'C', 'D'];
const KINDS = ['page', 'video', 'quiz', 'assignment', 'discussion', 'file'];

/** The courses of a learner: neighbours, so that each course has its share. */
function courseOf({ courses, coursesEach }: Institution, learner: number, turn: number): number {
  return (learner + (turn % coursesEach)) % courses;
}

/** The group of a learner: all groups of a course are of one size, however many courses there are. */
function groupOf({ courses }: Institution, learner: number): string {
  return GROUPS[Math.floor(learner / courses) % GROUPS.length];
}

export function outlineOf({ courses }: Institution): string {
  const lines = ['course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,changed_at'];
  for (let c = 0; c < courses; c += 1) {
    for (let i = 0; i < ITEMS; i += 1) {
      const changed = i % 10 === 3 ? '2026-11-02T09:00:00Z' : '';
      lines.push(
        `C${c},Course ${c},2026-09-14,2026-12-20,Week ${1 + Math.floor(i / 6)},C${c}-${i},Item ${i},${KINDS[i % KINDS.length]},yes,${changed}`,
      );
    }
  }
  return `${lines.join('\n')}\n`;
}

export function rosterOf(all: Institution): string {
  const lines = ['learner_id,given_name,family_name,email,organisation,course,group,enrolled_on'];
  for (let l = 0; l < all.learners; l += 1) {
    for (let turn = 0; turn < all.coursesEach; turn += 1) {
      lines.push(
        `B${l},Given${l},Family${l % 977},b${l}@learner.example,Partner ${l % 12},C${courseOf(all, l, turn)},${groupOf(all, l)},2026-09-14`,
      );
    }
  }
  return `${lines.join('\n')}\n`;
}

async function writeLogOf(path: string, all: Institution): Promise<void> {
  const file = createWriteStream(path);
  let lines = 'time,learner_id,course,item_id,action,address\n';
  let i = 0;
  for (const row of logRows(all.learners, all.rows)) {
    // A visit stays in one course for a while.
    const c = courseOf(all, row.learner, Math.floor(i++ / 400));
    const item = row.item === null ? '' : `C${c}-${row.item}`;
    lines += `${new Date(row.at).toISOString().slice(0, 19)}Z,B${row.learner},C${c},${item},${ACTIONS[row.action]},${row.address}\n`;
    if (lines.length > 1_000_000) {
      if (!file.write(lines)) await once(file, 'drain');
      lines = '';
    }
  }
  file.end(lines);
  await finished(file);
}

/** Makes it in a folder. Returns the folder's runtime and the log's path. */
export async function institution(dir: string, all: Institution): Promise<{ runtime: Runtime; log: string }> {
  const runtime = await openRuntime(
    readSettings({
      LEESHORE_DATA_DIR: join(dir, 'data'),
      LEESHORE_NOW: new Date(NOW).toISOString(),
      LEESHORE_TIMEZONE: 'Europe/Dublin',
      LEESHORE_LOG: 'warn',
    }),
  );
  const log = join(dir, 'log.csv');
  await writeLogOf(log, all);
  const bringIn = async (kind: string, body: Readable) => {
    const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind }, body);
    await workOnNext(runtime, makeOwner());
    const run = await findRun(runtime.db, id);
    if (run?.state !== 'done' || run.rejected > 0)
      throw new Error(`${kind} ended as ${run?.state}: ${run?.error ?? run?.rejected}`);
  };
  await bringIn('outline', Readable.from([Buffer.from(outlineOf(all))]));
  await bringIn('roster', Readable.from([Buffer.from(rosterOf(all))]));
  await bringIn('access-log', createReadStream(log));
  const kinds = [
    ['saved', 'worked'],
    ['signed_in', 'other'],
  ] as const;
  for (const [word, kind] of kinds) await runtime.db('action').where({ word }).update({ kind, settled: 1 });
  return { runtime, log };
}
