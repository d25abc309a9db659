import { afterEach, describe, expect, it } from 'vitest';
import { listGaps } from '@/data/feed/feed-gaps';
import type { Reason } from '@/core/drift/types';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { incompleteDays, lookForGaps, nameGap, settleGap, sourceRhythms } from './feed';
import { recalculate } from '../drift/recalculate';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';

let runtime: TestRuntime;
afterEach(() => runtime.close());

const HOUR = 3_600_000;

/** Lines of a busy source: ten events an hour from 08:00 to 20:00 of each day, but for some. */
function busyDays(from: string, to: string, without: (iso: string) => boolean = () => false): string[] {
  const lines: string[] = [];
  for (let at = Date.parse(`${from}T00:00:00Z`); at < Date.parse(to); at += HOUR) {
    const iso = new Date(at).toISOString();
    const hour = Number(iso.slice(11, 13));
    if (hour < 8 || hour >= 20 || without(iso)) continue;
    for (let i = 0; i < 10; i += 1) {
      lines.push(`${new Date(at + i * 300_000).toISOString()},${['L1', 'L2', 'L4'][i % 3]},DRY,D1,viewed`);
    }
  }
  return lines;
}

/** An hour after the log goes on. */
const MORNING = '2026-11-20T09:00:00Z';
/** That morning somebody else comes than whom the test looks at. */
const logged = (lines: string[]) => logOf(lines.filter((line) => !/^2026-11-20.*,L1,/.test(line)));
const silentDays = (iso: string) => iso.startsWith('2026-11-18') || iso.startsWith('2026-11-19');
const gapsOf = async () =>
  (await listGaps(runtime.db, SYSTEM_VIEWER)).map(({ state, from_at, to_at }) => [
    state,
    new Date(from_at).toISOString().slice(0, 16),
    new Date(to_at).toISOString().slice(0, 16),
  ]);
const SILENCE = ['2026-11-18T08:00', '2026-11-19T20:00'];
const reading = async (learner: string) =>
  runtime
    .db('drift_reading')
    .join('enrolment', 'enrolment.id', 'enrolment_id')
    .join('learner', 'learner.id', 'learner_id')
    .where('learner.external_id', learner)
    .orderBy('day', 'desc')
    .first('score', 'reasons');

/** What a learner's latest reading says of the days since they were there. */
async function quiet(learner: string): Promise<Reason['says'] | undefined> {
  const { reasons }: { reasons: Reason[] } = JSON.parse((await reading(learner)).reasons);
  return reasons.find(({ factor }) => factor === 'quiet')?.says;
}

/** Dates on which a course's log is said to be incomplete. */
async function incomplete(code: string): Promise<string[]> {
  const ranges = await incompleteDays(runtime, await runtime.db('course').where({ code }).pluck('id'), {});
  return ranges.flatMap(([from, to]) => Array.from({ length: to - from + 1 }, (_, i) => dateOfDay(from + i)));
}

describe('a gap in the feed', () => {
  it('is found by the rhythm, counts once a person confirms it, and is cleared by a later file that fills it', async () => {
    runtime = await smallRuntime();
    await runtime.db('setting').where('name', 'reading_day').delete();
    runtime.setNow(MORNING);
    await bringIn(runtime, 'access-log', logged(busyDays('2026-10-26', MORNING, silentDays)), {
      source: 'campus',
    });
    await runtime.db('drift_reading').where('day', '>', dayFromDate('2026-11-20')!).delete();
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([['found', ...SILENCE]]);
    await recalculate(runtime);
    expect(await quiet('L1')).toMatchObject({ name: 'quiet', days: 3, counted: 3 });

    const [gap] = await listGaps(runtime.db, SYSTEM_VIEWER);
    await settleGap(runtime, SYSTEM_VIEWER, gap.id, true);
    await recalculate(runtime);
    expect(await quiet('L1')).toMatchObject({ days: 3, counted: 1 });
    expect(await incomplete('DRY')).toEqual(['2026-11-18', '2026-11-19']);

    // Found again, it is the same gap.
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([['confirmed', ...SILENCE]]);

    // A file with less than half of what usually comes does not fill it; one with all does.
    const missing = busyDays('2026-11-18', '2026-11-20T00:00:00Z');
    await bringIn(runtime, 'access-log', logOf(missing.slice(0, 40)), { source: 'campus' });
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([['confirmed', ...SILENCE]]);
    await bringIn(runtime, 'access-log', logOf(missing), { source: 'campus' });
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([['filled', ...SILENCE]]);
    await recalculate(runtime);
    expect(await quiet('L1')).toMatchObject({ days: 1 });
    expect(await incomplete('DRY')).toEqual([]);
  });

  it('that the rhythm alone had found goes without a trace when its file comes', async () => {
    runtime = await smallRuntime();
    runtime.setNow(MORNING);
    await bringIn(runtime, 'access-log', logged(busyDays('2026-10-26', MORNING, silentDays)), {
      source: 'campus',
    });
    await lookForGaps(runtime);
    await bringIn(runtime, 'access-log', logOf(busyDays('2026-11-18', '2026-11-20T00:00:00Z')), { source: 'campus' });
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([]);
  });

  it('can be said to be none, and is not brought up again', async () => {
    runtime = await smallRuntime();
    runtime.setNow(MORNING);
    await bringIn(runtime, 'access-log', logged(busyDays('2026-10-26', MORNING, silentDays)), {
      source: 'campus',
    });
    await lookForGaps(runtime);
    const [gap] = await listGaps(runtime.db, SYSTEM_VIEWER);
    await settleGap(runtime, SYSTEM_VIEWER, gap.id, false);
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([['dismissed', ...SILENCE]]);
    expect(await incomplete('DRY')).toEqual([]);
  });

  it('is named by a lead, for a source that has brought events, and not backwards', async () => {
    runtime = await smallRuntime();
    runtime.setNow('2026-11-20T07:00:00Z');
    await bringIn(runtime, 'access-log', logOf(busyDays('2026-11-01', '2026-11-20T00:00:00Z')), { source: 'campus' });
    const name = (values: Record<string, string>, viewer = SYSTEM_VIEWER) => nameGap(runtime, viewer, values);
    const day = { source: 'campus', from: '2026-11-10T12:00', to: '2026-11-10T20:00' };
    await expect(name({ ...day, to: '2026-11-10T11:00' })).rejects.toThrow('to does not lie after from');
    await expect(name({ ...day, from: '2026-02-30T12:00' })).rejects.toThrow('from is not a time');
    await expect(name({ ...day, from: '2027-11-10T12:00', to: '2027-11-11T12:00' })).rejects.toThrow(
      'from lies in the future',
    );
    await expect(name({ ...day, source: 'nix' })).rejects.toThrow('there is no source nix that has brought events');
    await expect(name(day, await viewerByEmail(runtime, 'mentor@staff.example'))).rejects.toThrow('Nothing was found');
    await name({ ...day, reason: 'the server moved' });
    // Events there were before it was named do not fill it.
    await lookForGaps(runtime);
    expect(await gapsOf()).toEqual([['confirmed', '2026-11-10T12:00', '2026-11-10T20:00']]);
    const courses = await runtime.db('course').where('code', 'DRY').pluck('id');
    expect(await incompleteDays(runtime, courses, { to: Date.parse('2026-11-10T10:00:00Z') })).toEqual([]);
    expect(await incompleteDays(runtime, courses, {})).toHaveLength(1);
  });
});

it('a source is late when it is silent at an hour at which it usually is not', async () => {
  runtime = await smallRuntime();
  await bringIn(runtime, 'access-log', logOf(busyDays('2026-10-26', '2026-11-24T09:00:00Z')), { source: 'campus' });
  const late = async () => (await sourceRhythms(runtime)).map(({ name, usual, late: is }) => [name, usual, is]);
  expect(await late()).toEqual([['campus', 10, false]]);
  runtime.setNow('2026-11-24T22:00:00Z');
  expect(await late()).toEqual([['campus', 0, false]]);
});
