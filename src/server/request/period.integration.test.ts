import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SYSTEM_VIEWER } from '../system-viewer';
import { readInput } from './input';
import { PeriodQuery, periodOf, sayPeriod, type Period } from './period';
import { smallRuntime, type TestRuntime } from '../testing';
import { openView } from './view';

let runtime: TestRuntime;
beforeAll(async () => {
  runtime = await smallRuntime();
});
afterAll(() => runtime.close());

const iso = ({ from, to }: Period) => [from, to].map((at) => at && new Date(at).toISOString().slice(0, 16));

describe('a period', () => {
  const read = async (values: Partial<PeriodQuery>, item?: { opens_at: number | null; changed_at: number | null }) =>
    iso(
      await periodOf(runtime, await openView(runtime, SYSTEM_VIEWER), Object.assign(new PeriodQuery(), values), item),
    );

  it.each([
    ['today', ['2026-11-24T00:00', '2026-11-25T00:00']],
    ['yesterday', ['2026-11-23T00:00', '2026-11-24T00:00']],
    ['week', ['2026-11-23T00:00', '2026-11-30T00:00']],
    ['7-days', ['2026-11-18T00:00', '2026-11-25T00:00']],
  ] as const)('%s is whole days of the programme’s zone', async (period, expected) => {
    expect(await read({ period })).toEqual(expected);
  });

  it('of a day on which clocks change has 25 hours', async () => {
    expect(await read(readInput(PeriodQuery, { from: '2026-10-25', to: '2026-10-26' }, runtime.zone))).toEqual([
      '2026-10-24T23:00',
      '2026-10-26T00:00',
    ]);
  });

  it('may go by when an item was set, where the outline says so', async () => {
    const opens_at = Date.parse('2026-11-02T09:00:00Z');
    expect(await read({ period: 'since-set' }, { opens_at, changed_at: null })).toEqual([
      '2026-11-02T09:00',
      undefined,
    ]);
    await expect(read({ period: 'since-set' }, { opens_at: null, changed_at: null })).rejects.toThrow(
      'no opening time',
    );
  });

  it.each([
    [{}, 'at any time'],
    [{ from: '2026-11-03T00:00:00Z' }, 'since Tue 3 Nov'],
    [{ from: '2026-11-03T09:30:00Z' }, 'since Tue 3 Nov, 09:30'],
    [{ to: '2026-11-05T00:00:00Z' }, 'up to Wed 4 Nov'],
    [{ from: '2026-11-03T00:00:00Z', to: '2026-11-04T00:00:00Z' }, 'on Tue 3 Nov'],
    [{ from: '2026-11-03T00:00:00Z', to: '2026-11-06T00:00:00Z' }, 'Tue 3 Nov to Thu 5 Nov'],
    [{ from: '2026-11-03T09:00:00Z', to: '2026-11-03T10:30:00Z' }, 'Tue 3 Nov, 09:00 to 10:30'],
    [{ from: '2026-11-03T09:00:00Z', to: '2026-11-05T00:00:00Z' }, 'Tue 3 Nov, 09:00 to Wed 4 Nov'],
    [{ from: '2025-11-03T00:00:00Z', to: '2025-11-04T00:00:00Z' }, 'on Mon 3 Nov 2025'],
  ])('%j is said as “%s”', (period: { from?: string; to?: string }, says) => {
    const at = (text?: string) => (text === undefined ? undefined : Date.parse(text));
    expect(sayPeriod({ from: at(period.from), to: at(period.to) }, 'Europe/Dublin', runtime.clock.now())).toBe(says);
  });
});
