import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { sampleAnswer } from '@/sample-answers';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DueState } from '@/core/work/due';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, testRuntime, type TestRuntime } from '../testing';
import { checkAll } from '../check';
import { progress } from '../completion/progress-list';
import { grades } from '../grades/grades-list';
import { questions } from '../grades/questions-list';
import { workDue } from './work-due-list';
import { toGrade } from './to-grade-list';

const file = (name: string) => readFileSync(join(process.cwd(), 'samples', 'small', name));
const ALL = { limit: '1000' };
let runtime: TestRuntime;

beforeAll(async () => {
  const { now, timezone } = sampleAnswer('counts');
  runtime = await testRuntime(now, timezone);
  for (const [kind, name] of [
    ['outline', 'outline.csv'],
    ['roster', 'roster.csv'],
    ['access-log', 'access-log-1.csv'],
    ['access-log', 'access-log-2.csv'],
    ['sessions', 'sessions.csv'],
    ['marks', 'marks.csv'],
    ['results', 'results.csv'],
    ['responses', 'responses.csv'],
  ] as const)
    await bringIn(runtime, kind, file(name));
});
afterAll(() => runtime.close());

describe('the samples', () => {
  it('give the progress worked out by hand', async () => {
    const { rows } = await progress(runtime, SYSTEM_VIEWER, { ...ALL, status: 'all' });
    const read = Object.fromEntries(
      rows.map(({ enrolled, done, required, share, statuses }) => [
        `${enrolled.learner_id}|${enrolled.course}`,
        {
          done,
          required,
          progress: Math.round(share! * 1e5) / 1e5,
          items: Object.fromEntries(statuses.map(({ item, state }) => [item.externalId, state.state])),
        },
      ]),
    );
    expect(read).toEqual(sampleAnswer('progress'));
  });

  it('give the work due', async () => {
    const read: Record<string, Record<string, DueState>> = {};
    let cursor: string | undefined;
    do {
      const page = await workDue(runtime, SYSTEM_VIEWER, { limit: '200', ...(cursor ? { cursor } : {}) });
      for (const { enrolled, item_id, state } of page.rows)
        (read[`${enrolled.learner_id}|${enrolled.course}`] ??= {})[item_id] = state;
      cursor = page.next ?? undefined;
    } while (cursor);
    expect(read).toEqual(sampleAnswer('work-due'));
  });

  it('give the three means', async () => {
    const { rows } = await grades(runtime, SYSTEM_VIEWER, { ...ALL, status: 'all' });
    const known = sampleAnswer('grades') as Record<string, Record<string, number | null>>;
    expect(rows).toHaveLength(Object.keys(known).length);
    for (const { enrolled, means } of rows) {
      const own = known[`${enrolled.learner_id}|${enrolled.course}`];
      for (const [name, value] of Object.entries(own)) {
        const mean = means[name as keyof typeof means];
        if (value === null) expect(mean).toBeNull();
        else expect(mean).toBeCloseTo(value, 2);
      }
    }
  });

  it('give the figures of questions, of first and of last attempts', async () => {
    const known = sampleAnswer('questions');
    for (const attempts of ['first', 'last'] as const) {
      const rows = (
        await Promise.all(
          ['HAT', 'SBE'].map((course) => questions(runtime, SYSTEM_VIEWER, { ...ALL, course, attempts })),
        )
      ).flatMap((page) => page.rows);
      const read: Record<string, Record<string, unknown>> = {};
      for (const { question, figures } of rows) {
        const round = (value: number | null) => (value === null ? null : Math.round(value * 1e5) / 1e5);
        (read[question.item_id] ??= {})[question.question_id] = {
          n: figures.n,
          facility: round(figures.facility),
          discrimination: round(figures.discrimination),
          answers: Object.fromEntries(figures.answers.map(({ answer, count }) => [answer, count])),
          right_answer: question.right_answer,
        };
      }
      expect(read).toEqual(
        Object.fromEntries(
          Object.entries(known).map(([item, of]) => [item, (of as Record<string, unknown>)[attempts]]),
        ),
      );
    }
  });

  it('are the same when every file comes again', async () => {
    for (const kind of ['results', 'responses'] as const) {
      const again = await bringIn(runtime, kind, file(`${kind}.csv`));
      expect(again).toMatchObject({ accepted: 0, rejected: 0 });
    }
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('list what waits for us, oldest first', async () => {
    const { rows, total } = await toGrade(runtime, SYSTEM_VIEWER, ALL);
    expect(total).toBe(rows.length);
    expect(total).toBeGreaterThan(10);
    const times = rows.map(({ submitted_at }) => submitted_at);
    expect(times).toEqual([...times].sort((a, b) => a - b));
  });
});
