/** A term of live sessions: files of presence and marks against plain inserts, and what screens ask against bare queries. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import Database from 'better-sqlite3';
import { DAY, HOUR, MINUTE } from '@/core/time/zone';
import { PRAGMAS } from '@/data/db';
import { findRun } from '@/data/imports/import-runs';
import { ATTENDANCE } from '@/server/sessions/attendance-list';
import { giveMarks } from '@/server/sessions/roll';
import { openSession } from '@/server/sessions/session';
import { workOnNext } from '@/server/imports/queue';
import { receiveFile } from '@/server/imports/receive';
import { makeOwner } from '@/server/owner';
import type { Runtime } from '@/server/runtime';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { NOW } from './data';
import { institution } from './institution';
import { percentile, repeat, report, timed } from './measure';

const LEARNERS = 2000;
const COURSES = 2;
const GROUPS = ['A', 'B', 'C', 'D'];
const HELD = 40;
const TIMES = 20;

interface Held {
  id: string;
  course: number;
  group: number;
  starts: number;
}

function held(): Held[] {
  return Array.from({ length: COURSES }, (_, course) =>
    GROUPS.map((_name, group) =>
      Array.from({ length: HELD }, (_one, turn) => ({
        id: `S${course}-${group}-${turn}`,
        course,
        group,
        starts: NOW - (HELD - turn) * 1.5 * DAY - group * HOUR,
      })),
    ).flat(),
  ).flat();
}

const iso = (at: number) => new Date(at).toISOString();

/** Learners of a session: those of the institution's course and group. */
function* members({ course, group }: Held): Generator<number> {
  for (let l = 0; l < LEARNERS; l += 1) if (l % COURSES === course && l % GROUPS.length === group) yield l;
}

/** Every stay: most once, some twice. */
function* staysOf(
  sessions: readonly Held[],
): Generator<[session: Held, learner: number, entered: number, left: number]> {
  for (const session of sessions) {
    for (const l of members(session)) {
      const late = (l * 7) % 20;
      yield [session, l, session.starts + late * MINUTE, session.starts + 40 * MINUTE];
      if (l % 3 === 0) yield [session, l, session.starts + 42 * MINUTE, session.starts + 75 * MINUTE];
    }
  }
}

async function bringIn(runtime: Runtime, kind: string, text: string): Promise<number> {
  const [id] = await receiveFile(runtime, SYSTEM_VIEWER, { kind }, Readable.from([Buffer.from(text)]));
  const { ms } = await timed(() => workOnNext(runtime, makeOwner()));
  const run = await findRun(runtime.db, id);
  if (run?.state !== 'done' || run.rejected > 0)
    throw new Error(`${kind} ended as ${run?.state}: ${run?.error ?? run?.rejected}`);
  return ms;
}

/** The same rows with the same indexes, by one prepared statement. */
function plain(schema: string, insert: string, rows: readonly unknown[][]): number {
  const raw = new Database(':memory:');
  for (const pragma of PRAGMAS) raw.pragma(pragma);
  raw.exec(schema);
  const statement = raw.prepare(insert);
  const began = performance.now();
  raw.transaction(() => rows.forEach((row) => statement.run(...row)))();
  const ms = performance.now() - began;
  raw.close();
  return ms;
}

export async function benchSessions(): Promise<void> {
  const dir = mkdtempSync(join(tmpdir(), 'lee-shore-bench-'));
  try {
    const { runtime } = await institution(dir, { learners: LEARNERS, courses: COURSES, coursesEach: 1, rows: 4000 });
    const sessions = held();
    const lines = sessions.map(
      ({ id, course, group, starts }) =>
        `C${course},${GROUPS[group]},${id},Session,${iso(starts)},${iso(starts + 75 * MINUTE)},online,,no`,
    );
    await bringIn(
      runtime,
      'sessions',
      `course,group,session_id,title,starts_at,ends_at,mode,place,cancelled\n${lines.join('\n')}\n`,
    );

    const stays = [...staysOf(sessions)];
    const presence = stays.map(
      ([{ id }, l, entered, left]) =>
        `${id},Given${l} Family${l % 977},b${l}@learner.example,${iso(entered)},${iso(left)}`,
    );
    const taken = await bringIn(runtime, 'presence', `session_id,person,email,entered,left\n${presence.join('\n')}\n`);
    const bare = plain(
      `CREATE TABLE presence_row (id INTEGER PRIMARY KEY, session_id INTEGER, person TEXT, folded TEXT, email TEXT, entered INTEGER, "left" INTEGER, learner_id INTEGER, matched TEXT);
       CREATE INDEX a ON presence_row (session_id, entered, person); CREATE INDEX b ON presence_row (folded); CREATE INDEX c ON presence_row (learner_id);`,
      'INSERT INTO presence_row (session_id, person, folded, email, entered, "left", learner_id, matched) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
      stays.map(([session, l, entered, left]) => [
        sessions.indexOf(session),
        `Given${l}`,
        `given${l}`,
        `b${l}@learner.example`,
        entered,
        left,
        l,
        'email',
      ]),
    );
    report(
      `presence, ${stays.length} rows matched and derived`,
      taken / bare,
      12,
      `${Math.round(taken)} ms beside ${Math.round(bare)} ms`,
    );

    const marks = sessions.flatMap((session) =>
      [...members(session)].map(
        (l) => `${session.id},B${l},${['present', 'late', 'absent', 'excused'][((l + session.starts / DAY) % 4) | 0]},`,
      ),
    );
    const marked = await bringIn(runtime, 'marks', `session_id,learner_id,mark,remark\n${marks.join('\n')}\n`);
    const bareMarks = plain(
      `CREATE TABLE attendance (id INTEGER PRIMARY KEY, session_id INTEGER, learner_id INTEGER, mark TEXT, remark TEXT, source TEXT, staff_id INTEGER, at INTEGER, differs TEXT, UNIQUE (session_id, learner_id));
       CREATE INDEX a ON attendance (learner_id, session_id, mark);`,
      'INSERT INTO attendance (session_id, learner_id, mark, remark, source, at) VALUES (?, ?, ?, ?, ?, ?)',
      marks.map((_, i) => [Math.floor(i / 250), i % 250, 'present', '', 'file', NOW]),
    );
    report(
      `marks, ${marks.length} rows with their history`,
      marked / bareMarks,
      12,
      `${Math.round(marked)} ms beside ${Math.round(bareMarks)} ms`,
    );

    const raw = new Database(join(runtime.settings.dataDir, 'lee-shore.sqlite'), { readonly: true });
    const aggregate = raw.prepare(
      `SELECT l.external_id, count(*), sum(m.credit), sum(m.counts) FROM enrolment e JOIN learner l ON l.id = e.learner_id
       JOIN attendance a ON a.learner_id = e.learner_id JOIN session s ON s.id = a.session_id JOIN mark m ON m.code = a.mark
       WHERE e.course_id = 1 AND s.course_id = 1 AND s.roll_at IS NOT NULL GROUP BY l.id ORDER BY l.family_name`,
    );
    const whole = percentile(
      await repeat(TIMES, () => ATTENDANCE.read(runtime, SYSTEM_VIEWER, { course: 'C0', limit: '100' })),
      0.5,
    );
    const queried = percentile(await repeat(TIMES, async () => aggregate.all()), 0.5);
    const figures = percentile(
      await repeat(TIMES, () =>
        ATTENDANCE.read(runtime, SYSTEM_VIEWER, { course: 'C0', limit: '100', sort: '-missed' }),
      ),
      0.5,
    );
    report(
      'the same by sessions missed in a row, which needs every record',
      figures / queried,
      6,
      `${figures.toFixed(1)} ms`,
    );
    report(
      'attendance of a course of 1,000 in 160 sessions',
      whole / queried,
      4,
      `${whole.toFixed(1)} ms beside a bare aggregate of ${queried.toFixed(1)} ms`,
    );

    const rows = raw.prepare(
      'SELECT * FROM presence_row r JOIN learner l ON l.id = r.learner_id LEFT JOIN attendance a ON a.session_id = r.session_id AND a.learner_id = l.id WHERE r.session_id = ?',
    );
    const opened = percentile(await repeat(TIMES, () => openSession(runtime, SYSTEM_VIEWER, 'S0-0-20')), 0.5);
    const read = percentile(await repeat(TIMES, async () => rows.all(20)), 0.5);
    report(
      'one session of 500 with its lines',
      opened / read,
      12,
      `${opened.toFixed(1)} ms beside a bare query of ${read.toFixed(1)} ms`,
    );

    let seen = 0;
    const one = async () => {
      const { changes } = await giveMarks(runtime, SYSTEM_VIEWER, 'S0-0-39', {
        marks: [{ learner_id: 'B0', mark: seen % 2 ? 'late' : 'present', seen }],
      });
      seen = changes.B0;
    };
    console.log(`     one mark given in a session of 500: ${percentile(await repeat(TIMES, one), 0.5).toFixed(1)} ms`);
    raw.close();
    await runtime.db.destroy();
  } finally {
    rmSync(dir, { recursive: true, force: true });
  }
}
