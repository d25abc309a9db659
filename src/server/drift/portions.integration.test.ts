import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { ALL_PROGRESS, staleProgress } from '@/data/completion/enrolment-progress';
import { withRaw, rawTransaction } from '@/data/db';
import { FROM_THE_BEGINNING, OF_ALL, noteStale } from '@/data/drift/stale';
import { findRun } from '@/data/imports/import-runs';
import { showRun } from '../imports/show';
import { openDriftView } from '../request/view';
import { checkAll } from '../check';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, testRuntime, type TestRuntime } from '../testing';
import { workOut, type Helper } from './portions';
import { recalculate } from './recalculate';

/** Enough people for several portions of completion and of readings, in more than one course. */
const PEOPLE = 900;
const COURSES = ['DRY', 'HAT', 'SBE'];
const courseOf = (n: number) => COURSES[n % COURSES.length];
const each = (line: (n: number) => string) => Array.from({ length: PEOPLE }, (_, n) => line(n));
const OUTLINE = [
  'course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at,points',
  ...COURSES.flatMap((course) =>
    [6, 13, 20].map(
      (day) =>
        `${course},${course},2026-10-26,2026-12-21,${course}${day},Sheet ${day},assignment,yes,2026-11-${day}T18:00:00Z,10`,
    ),
  ),
  '',
].join('\n');
const ROSTER = [
  'learner_id,given_name,course,group,enrolled_on',
  ...each((n) => `L${n},Ines ${n},${courseOf(n)},${n % 2 ? 'A' : 'B'},2026-10-26`),
  '',
].join('\n');
/** Results of everybody for the sheet that is due on a day; of one, none after the first. */
const LATE = 3;
const resultsOf = (day: number) =>
  [
    'learner_id,course,item_id,submitted_at,score,points',
    ...each(
      (n) =>
        `L${n},${courseOf(n)},${courseOf(n)}${day},2026-11-${String(day - (n % 5)).padStart(2, '0')}T10:00:00Z,${n % 11},10`,
    ).filter((_, n) => n !== LATE || day === 6),
    '',
  ].join('\n');
const RESULTS = resultsOf(6);

let runtime: TestRuntime;
beforeEach(async () => {
  runtime = await testRuntime('2026-11-24T09:10:00Z', 'UTC');
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  await bringIn(runtime, 'results', RESULTS);
});
afterEach(async () => {
  expect((await checkAll(runtime)).problems).toEqual([]);
  await runtime.close();
});

/** Everything hangs on dates that have moved. */
async function moveDates(by = 1): Promise<void> {
  await rawTransaction(runtime.db, (raw) => {
    raw.prepare('UPDATE item SET due_at = due_at + ?').run(by * 86_400_000);
    staleProgress(raw, ALL_PROGRESS);
    noteStale(raw, OF_ALL, { fromDay: FROM_THE_BEGINNING });
  });
}

const left = async () => {
  const [completion, readings] = await Promise.all([
    runtime.db('progress_stale').pluck('enrolment_id'),
    runtime.db('drift_stale').where('recent', 1).pluck('enrolment_id'),
  ]);
  return { completion: completion.length, readings: readings.length };
};

class Killed extends Error {}

describe('what is derived in portions', () => {
  it('goes on where it was when it is killed between any two of them', async () => {
    await moveDates();
    const seen: number[] = [];
    for (let deaths = 0; ; deaths += 1) {
      const work = recalculate(runtime, {
        afterStep: async (progress) => {
          if (progress) throw new Killed();
        },
      });
      if (await work.then(() => true, () => false)) break; // prettier-ignore
      const { completion, readings } = await left();
      seen.push(completion + readings);
      expect(deaths).toBeLessThan(50);
    }
    // Each portion that was stored stays stored.
    expect(seen.length).toBeGreaterThan(4);
    expect(seen).toEqual([...new Set(seen)].sort((a, b) => b - a));
    expect(await left()).toEqual({ completion: 0, readings: 0 });
  });

  it('tells how far it is, from nothing to all', async () => {
    await moveDates();
    const shares: number[] = [];
    await recalculate(runtime, {
      afterStep: async (progress) => {
        if (progress) shares.push(progress.done / progress.total);
      },
    });
    expect(shares.length).toBeGreaterThan(4);
    expect(shares).toEqual([...shares].sort((a, b) => a - b));
    expect(shares.at(-1)).toBe(1);
  });

  it('is told by the import whose end it is', async () => {
    let real = runtime.clock.real();
    let asked = 0;
    const ticking = {
      ...runtime,
      clock: { ...runtime.clock, real: () => (real += 600) },
      helper: () => {
        asked += 1;
        return null;
      },
    };
    const { id } = await bringIn(ticking, 'results', resultsOf(13));
    const run = (await findRun(runtime.db, id))!;
    // In between it is what stands in the row; at its end nothing is being derived any more.
    expect(run).toMatchObject({ state: 'done', derived: run.to_derive });
    expect(run.to_derive).toBeGreaterThan(PEOPLE);
    expect(showRun({ ...run, state: 'running', derived: 7 }).deriving).toEqual({ done: 7, total: run.to_derive });
    expect(showRun(run).deriving).toBeNull();
    // A helper that cannot is asked, and the work is done here.
    expect(asked).toBeGreaterThan(0);
  });

  it('comes to the same with another thread at it, and with one that dies', async () => {
    const asked: string[] = [];
    let answers = 0;
    const helper: Helper = (kind, portion, terms) => {
      asked.push(kind);
      return withRaw(runtime.db, (raw) => {
        answers += 1;
        if (answers % 2 === 0) throw new Error('The thread is gone');
        return workOut(raw, kind, portion, terms);
      });
    };
    const plain = async () =>
      runtime.db('drift_reading').orderBy('enrolment_id').orderBy('day').select('enrolment_id', 'day', 'reasons');
    await moveDates();
    await recalculate(runtime);
    const alone = await plain();
    await moveDates(0);
    await recalculate({ ...runtime, helper });
    expect(await plain()).toEqual(alone);
    expect(new Set(asked)).toEqual(new Set(['completion', 'readings']));
  });

  it('is worked at by two processes at once', async () => {
    const other = await testRuntime('2026-11-24T09:10:00Z', 'UTC', runtime.settings.dataDir);
    for (let round = 0; round < 3; round += 1) {
      await moveDates(round % 2 ? 1 : -1);
      await bringIn(runtime, 'results', RESULTS.replaceAll('T10:', `T1${round}:`));
      await moveDates(0);
      await Promise.all([recalculate(runtime), recalculate(other)]);
      await recalculate(other);
      expect(await left()).toEqual({ completion: 0, readings: 0 });
      expect((await checkAll(other)).problems).toEqual([]);
    }
    await other.close();
  });

  it('stores nothing over what became stale again meanwhile', async () => {
    await moveDates();
    let isMoved = false;
    await recalculate(runtime, {
      afterStep: async () => {
        if (isMoved) return;
        isMoved = true;
        await moveDates(3);
      },
    });
    await recalculate(runtime);
    expect(await left()).toEqual({ completion: 0, readings: 0 });
  });

  it('reads no drift of a group whose hand-ins are still to be derived', async () => {
    const visits = [16, 18, 20, 23].flatMap((day) =>
      each((n) => `2026-11-${day}T10:00:00Z,L${n},${courseOf(n)},,opened`),
    );
    await bringIn(runtime, 'access-log', logOf(visits));
    for (const day of [13, 20]) await bringIn(runtime, 'results', resultsOf(day));
    const [learner, item] = await Promise.all([
      runtime.db('learner').where('external_id', `L${LATE}`).first('id'),
      runtime.db('item').where('external_id', 'DRY13').first('id'),
    ]);
    const drift = async () =>
      (
        await runtime
          .db('drift_reading as r')
          .join('enrolment as e', 'e.id', 'r.enrolment_id')
          .where('e.learner_id', learner!.id)
          .orderBy('day', 'desc')
          .first('score')
      )?.score;
    const before = await drift();
    expect(before).toBeGreaterThan(0);
    // As a live hand-in does, between two times of deriving.
    await rawTransaction(runtime.db, (raw) => {
      raw
        .prepare(
          `INSERT INTO attempt (learner_id, item_id, number, submitted_at, score, points, graded_at, source)
           VALUES (?, ?, 1, ?, 9, 10, ?, 'live')`,
        )
        .run(learner!.id, item!.id, Date.parse('2026-11-13T09:00:00Z'), Date.parse('2026-11-13T09:00:00Z'));
      const where = { id: learner!.id };
      staleProgress(raw, 'SELECT id FROM enrolment WHERE learner_id = @id', where);
      noteStale(raw, 'SELECT id, 0 FROM enrolment WHERE learner_id = @id', where);
    });
    await recalculate(runtime, { derive: false });
    expect((await left()).readings).toBe(1);
    await recalculate(runtime);
    expect(await left()).toEqual({ completion: 0, readings: 0 });
    expect(await drift()).toBeLessThan(before!);
  });

  it('shows a new day when everybody has been read for it', async () => {
    const today = dayFromDate('2026-11-25')!;
    runtime.setNow(`${dateOfDay(today)}T06:00:00Z`);
    const shown = async () => (await openDriftView(runtime, SYSTEM_VIEWER)).readingDay;
    const days: number[] = [];
    await recalculate(runtime, {
      derive: false,
      afterStep: async (progress) => {
        if (progress) days.push(await shown());
      },
    });
    expect(days.length).toBeGreaterThan(1);
    expect(new Set(days)).toEqual(new Set([today - 1]));
    expect(await shown()).toBe(today);
  });
});
