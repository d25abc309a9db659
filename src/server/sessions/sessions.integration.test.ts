import { sampleAnswer } from '@/sample-answers';
import { readFileSync, readdirSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SYSTEM_VIEWER } from '../system-viewer';
import { askList, bringIn, counts, testRuntime, type TestRuntime } from '../testing';
import { ATTENDANCE } from './attendance-list';
import { attendanceFigures, openSession } from './session';
import { SESSIONS } from './sessions-list';

const file = (name: string) => readFileSync(`samples/small/${name}`);

let runtime: TestRuntime;
beforeAll(async () => {
  const { now, timezone } = sampleAnswer('counts');
  runtime = await testRuntime(now, timezone);
  for (const kind of ['outline', 'roster', 'staff'] as const) await bringIn(runtime, kind, file(`${kind}.csv`));
});
afterAll(() => runtime.close());

describe('the small sample’s sessions', () => {
  it('are taken once, however often the file comes', async () => {
    const lines = file('sessions.csv').toString().trim().split('\n').length - 1;
    expect(counts(await bringIn(runtime, 'sessions', file('sessions.csv')))).toMatchObject({
      accepted: lines,
      rejected: 0,
    });
    expect(counts(await bringIn(runtime, 'sessions', file('sessions.csv')))).toMatchObject({
      accepted: 0,
      duplicate: lines,
    });
    expect(counts(await bringIn(runtime, 'marks', file('marks.csv')))).toMatchObject({ rejected: 0 });
    for (const name of readdirSync('samples/small/presence')) {
      const run = await bringIn(runtime, 'presence', file(`presence/${name}`), { session: name.replace('.csv', '') });
      expect([name, run.state, run.rejected]).toEqual([name, 'done', 0]);
    }
  });

  it('give the presence and suggested marks worked out independently', async () => {
    for (const [id, expected] of Object.entries(sampleAnswer('presence') as Record<string, Record<string, object>>)) {
      const rows = attendanceFigures(await openSession(runtime, SYSTEM_VIEWER, id));
      const found = Object.fromEntries(
        rows
          .filter((row) => row.minutes !== null)
          .map(({ learner_id, minutes, share, first_in, last_out, reconnects, longest_gap_minutes, suggested }) => [
            learner_id,
            { minutes, share, first_in, last_out, reconnects, longest_gap_minutes, suggested },
          ]),
      );
      expect([id, found]).toEqual([id, expected]);
    }
  });

  it('give the attendance worked out independently', async () => {
    const hand = sampleAnswer('attendance') as Record<string, object>;
    for (const course of ['HAT', 'SBE']) {
      const { rows } = await askList(ATTENDANCE, runtime, SYSTEM_VIEWER, { course, status: 'all', limit: '1000' });
      for (const row of rows) {
        const expected = hand[`${row.learner_id}|${course}`];
        if (expected) expect([row.learner_id, row]).toEqual([row.learner_id, expect.objectContaining(expected)]);
        else expect([row.learner_id, row.counted]).toEqual([row.learner_id, 0]);
      }
    }
  });

  it('are listed with who was expected and who was there', async () => {
    const { rows, total } = await askList(SESSIONS, runtime, SYSTEM_VIEWER, { group: 'HAT/A' });
    expect(total).toBe(rows.length);
    expect(Object.keys(rows[0]).slice(0, 11)).toEqual([
      'session_id',
      'course',
      'group',
      'title',
      'starts_at',
      'ends_at',
      'mode',
      'cancelled',
      'roll_taken',
      'expected',
      'present',
    ]);
    for (const row of rows) expect(row.present).toBeLessThanOrEqual(row.expected as number);
  });
});
