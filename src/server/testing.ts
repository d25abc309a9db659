/** What the integration tests share: a data folder of their own, files brought in, viewers. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { Values } from './request/input';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { migrate, openDb } from '@/data/db';
import { findRun, type ImportRun } from '@/data/imports/import-runs';
import type { Viewer } from '@/data/scope';
import { staffByEmail, viewerOf } from '@/data/staff/staff';
import { signIn } from './staff/accounts';
import type { SignedIn } from './staff/sessions';
import type { SignInFrom } from './staff/sign-in-tries';
import { figuresOf, type List } from './request/list';
import { workOnNext } from './imports/queue';
import { receiveFile } from './imports/receive';
import { makeOwner } from './owner';
import { openRuntime, type Runtime } from './runtime';
import { readSettings } from './settings';
import { SYSTEM_VIEWER } from './system-viewer';

export interface TestRuntime extends Runtime {
  /** Moves the clock. */
  setNow(iso: string): void;
  /** Moves the time that waiting goes by. */
  passTime(ms: number): void;
  close(): Promise<void>;
}

const DATABASE = 'lee-shore.sqlite';
/** An empty database with every migration, made once for each file of tests and copied. */
let template: Promise<Buffer> | null = null;

async function makeTemplate(): Promise<Buffer> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-'));
  const path = join(dir, DATABASE);
  const db = openDb(path);
  await migrate(db);
  await db.destroy();
  const whole = readFileSync(path);
  rmSync(dir, { recursive: true });
  return whole;
}

export async function testRuntime(
  now = '2026-11-24T09:10:00Z',
  zone = 'Europe/Dublin',
  dataDir?: string,
): Promise<TestRuntime> {
  const dir = dataDir ?? mkdtempSync(join(tmpdir(), 'lee-shore-'));
  if (!dataDir) writeFileSync(join(dir, DATABASE), await (template ??= makeTemplate()));
  const opened = await openRuntime({
    ...readSettings({ LEESHORE_DATA_DIR: dir, LEESHORE_TIMEZONE: zone, LEESHORE_LOG: 'silent' }),
  });
  let instant = Date.parse(now);
  let passed = 0;
  return {
    ...opened,
    clock: { now: () => instant, real: () => Date.now() + passed },
    setNow: (iso) => (instant = Date.parse(iso)),
    passTime: (ms) => (passed += ms),
    async close() {
      await opened.db.destroy();
      if (!dataDir) await rm(dir, { recursive: true, force: true });
    },
  };
}

/** Takes in whatever waits in the queue, as the worker does. */
export async function takeIn(runtime: Runtime): Promise<void> {
  while ((await workOnNext(runtime, makeOwner())) === 'done') continue;
}

/** Brings a text in as a file and waits for its end. */
export async function bringIn(
  runtime: Runtime,
  kind: string,
  content: string | Buffer,
  more: Record<string, string> = {},
): Promise<ImportRun> {
  const ids = await receiveFile(runtime, SYSTEM_VIEWER, { kind, ...more }, Readable.from([Buffer.from(content)]));
  for (let count = 0; count < ids.length; count += 1) await workOnNext(runtime, makeOwner());
  return (await findRun(runtime.db, ids[0]))!;
}

export async function viewerByEmail(runtime: Runtime, email: string): Promise<Viewer> {
  return viewerOf(runtime.db, (await staffByEmail(runtime.db, email))!);
}

/** Signs somebody in of whom no second factor is asked. */
export async function signInWhole(runtime: Runtime, values: Values, from: SignInFrom): Promise<SignedIn> {
  const done = await signIn(runtime, values, from);
  if ('half' in done) throw new Error('A second factor is asked for');
  return done;
}

/** Signs somebody in in a new browser; returns the session's token. */
export async function enter(runtime: Runtime, email: string, password: string, address = '::1'): Promise<string> {
  return (await signInWhole(runtime, { email, password }, { address, browser: null, agent: '' })).token;
}

/** Counts of an import that matter in a test. */
export function counts({ state, read, accepted, duplicate, rejected }: ImportRun) {
  return { state, read, accepted, duplicate, rejected };
}

/** A little institution: one course with two groups, three partners, a mentor, a coordinator and a lead. */
export const SMALL = {
  outline: `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D1,Stone,page,yes
DRY,Drystone Walling,2026-09-28,2026-12-21,Week 1,D2,Quiz,quiz,yes
NET,Net Work,2026-09-28,2026-12-21,Week 1,N1,Knots,page,yes
`,
  roster: `learner_id,given_name,family_name,email,phone,organisation,course,group,enrolled_on,status,ended_on
L1,Ines,Marrow,l1@learner.example,+44 1632 960001,Norrick,DRY,A,2026-09-28,active,
L2,Tobias,Quill,l2@learner.example,,Penhallow,DRY,B,2026-09-28,active,
L3,Halima,Okoro,l3@learner.example,+44 1632 960003,Penhallow,NET,A,2026-09-28,active,
L1,Ines,Marrow,l1@learner.example,+44 1632 960001,Norrick,NET,A,2026-09-28,active,
L4,Petra,Sandoval,,,,DRY,A,2026-09-28,active,
L5,Wynn,Calloway,l5@learner.example,,Norrick,DRY,A,2026-09-28,withdrawn,2026-10-20
`,
  staff: `staff_id,given_name,family_name,email,role,scope_kind,scope
S1,Hesper,Vane,lead@staff.example,lead,all,
S2,Mair,Tolland,mentor@staff.example,mentor,group,DRY/A
S3,Jory,Kestle,instructor@staff.example,instructor,course,DRY
S4,Bryn,Ostler,norrick@partner.example,coordinator,organisation,Norrick
S5,Aldo,Finch,one@staff.example,mentor,learner,L3
`,
} as const;

/** A runtime on that institution, with lines of a log where they are given. */
export async function smallRuntime(log: readonly string[] = []): Promise<TestRuntime> {
  const runtime = await testRuntime();
  for (const kind of ['outline', 'roster', 'staff'] as const) await bringIn(runtime, kind, SMALL[kind]);
  if (log.length > 0) await bringIn(runtime, 'access-log', logOf(log));
  return runtime;
}

/** What the lists that are of a course or of somebody in it cannot do without, on the institution above. */
export const NEEDED_BY_LIST: Record<string, Values> = {
  questions: { course: 'DRY' },
  'group-grades': { course: 'DRY' },
  history: { learner: 'L1', course: 'DRY' },
  'learner-items': { learner: 'L1', course: 'DRY' },
};

/** An access-log file of lines `time,learner,course,item,action`. */
export function logOf(lines: readonly string[]): string {
  return ['time,learner_id,course,item_id,action', ...lines, ''].join('\n');
}

/** A page of a list as the API gives it. */
export async function askList<Row>(list: List<Row>, runtime: Runtime, viewer: Viewer, values: Values = {}) {
  const read = await list.read(runtime, viewer, values);
  return { ...read, rows: read.rows.map((row) => figuresOf(list, row, read)) };
}
