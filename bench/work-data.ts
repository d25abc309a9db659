/** Courses with work in them: outline, roster and a term of results, as files. */
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { DAY, HOUR } from '@/core/time/zone';
import { findRun } from '@/data/imports/import-runs';
import { workOnNext } from '@/server/imports/queue';
import { receiveFile } from '@/server/imports/receive';
import { helperBeside } from '@/server/drift/helper';
import { makeOwner } from '@/server/owner';
import { openRuntime, type Runtime } from '@/server/runtime';
import { readSettings } from '@/server/settings';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW } from './data';
import { timed } from './measure';

export const START = NOW - 70 * DAY;
export const iso = (at: number) => new Date(at).toISOString().replace('.000Z', 'Z');

export interface Plan {
  courses: number;
  learners: number;
  /** Learners in a group. */
  group: number;
  items: number;
}

export const learnerOf = (course: number, l: number) => `L${course}-${l}`;
export const itemOf = (course: number, i: number) => `C${course}-${i}`;
const dueOf = (i: number, items: number) => START + ((i + 1) * 90 * DAY) / items;

export async function openBench(dir: string): Promise<Runtime> {
  const opened = await openRuntime(
    readSettings({
      LEESHORE_DATA_DIR: join(dir, 'data'),
      LEESHORE_NOW: new Date(NOW).toISOString(),
      LEESHORE_TIMEZONE: 'Europe/Dublin',
      LEESHORE_LOG: 'warn',
    }),
  );
  return { ...opened, helper: helperBeside(import.meta.url, opened) };
}

export async function bringIn(runtime: Runtime, kind: string, text: string): Promise<number> {
  const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind }, Readable.from([Buffer.from(text)]));
  const { ms } = await timed(() => workOnNext(runtime, makeOwner()));
  const run = await findRun(runtime.db, id);
  if (run?.state !== 'done' || run.rejected > 0)
    throw new Error(`${kind} ended as ${run?.state}: ${run?.error ?? run?.rejected}`);
  return ms;
}

/** Courses of quizzes with due dates, and who is in them. */
export async function fill(runtime: Runtime, { courses, learners, group, items }: Plan, from = 0): Promise<void> {
  const outline = [
    'course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,due_at,points,category,weight',
  ];
  const roster = ['learner_id,given_name,family_name,course,group,enrolled_on'];
  for (let c = from; c < from + courses; c += 1) {
    for (let i = 0; i < items; i += 1) {
      const category = i % 3 === 0 ? 'Assignments,60' : 'Quizzes,40';
      outline.push(
        `C${c},Course ${c},2026-09-14,2026-12-20,Week ${1 + Math.floor(i / 5)},${itemOf(c, i)},Item ${i},quiz,yes,${iso(dueOf(i, items))},20,${category}`,
      );
    }
    for (let l = 0; l < learners; l += 1)
      roster.push(`${learnerOf(c, l)},Given${l},Family${l % 977},C${c},G${Math.floor(l / group)},2026-09-14`);
  }
  await bringIn(runtime, 'outline', `${outline.join('\n')}\n`);
  await bringIn(runtime, 'roster', `${roster.join('\n')}\n`);
}

export type Row = [learner: string, course: number, item: number, submitted: number, score: number];

/** What each has handed in: most of what was due, on time or a little late. */
export function* results({ courses, learners, items }: Plan, from = 0): Generator<Row> {
  for (let c = from; c < from + courses; c += 1) {
    for (let i = 0; i < items; i += 1) {
      for (let l = 0; l < learners; l += 1) {
        const submitted = Math.floor((dueOf(i, items) - ((l * 7 + i) % 60) * HOUR) / 1000) * 1000;
        yield [learnerOf(c, l), c, i, Math.min(submitted, NOW - HOUR), (l * 13 + i * 7) % 21];
      }
    }
  }
}

export const HEAD = 'learner_id,course,item_id,attempt,started_at,submitted_at,score,points,graded_at,grader,feedback';
export const line = ([learner, course, item, submitted, score]: Row) =>
  `${learner},C${course},${itemOf(course, item)},1,${iso(submitted - HOUR)},${iso(submitted)},${score},20,${iso(submitted)},,`;
