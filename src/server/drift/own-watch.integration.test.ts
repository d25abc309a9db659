import { unpackPerson } from '@/core/drift/shoreline';
import type { Values } from '../request/input';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findLearner } from '@/data/people/learners';
import type { DriftView } from '@/data/view';
import { listSetAside } from '@/data/drift/set-aside';
import { dayOf } from '@/core/time/zone';
import { bringBack, isToBeToldOfDrift, dismissModelNotice, capacityOf, setAside, setCapacity } from './own-watch';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openDriftView } from '../request/view';
import { allMatching, needOrder, readWatchFilter, watchNames, watchPage } from './watch';

let runtime: TestRuntime;
let view: DriftView;

beforeEach(async () => {
  runtime = await smallRuntime();
  view = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
});
afterEach(() => runtime.close());

const id = async (learner: string) => (await findLearner(runtime.db, view.viewer, learner))!;
const onWatch = async () =>
  (await needOrder(runtime, await openDriftView(runtime, view.viewer))).map((row) => row.learnerId);
const list = () => listSetAside(runtime.db, view.viewer, dayOf(runtime.clock.now(), runtime.zone));

describe('set aside', () => {
  it('until a day ends on that day by itself', async () => {
    await setAside(runtime, view.viewer, [await id('L1')], { reason: 'Harvest', until: 'date', date: '2026-11-30' });
    expect(await onWatch()).not.toContain(await id('L1'));
    expect(await list()).toMatchObject([{ learner_id: 'L1', reason: 'Harvest' }]);
    runtime.setNow('2026-11-30T09:00:00Z');
    expect(await onWatch()).toContain(await id('L1'));
    expect(await list()).toEqual([]);
  });

  it('until they come back ends with their next event', async () => {
    await setAside(runtime, view.viewer, [await id('L1')], { reason: 'Knows', until: 'back' });
    await bringIn(runtime, 'access-log', logOf(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']));
    expect(await onWatch()).not.toContain(await id('L1'));
    runtime.setNow('2026-11-26T09:00:00Z');
    await bringIn(runtime, 'access-log', logOf(['2026-11-25T10:00:00Z,L1,DRY,D1,opened']));
    expect(await onWatch()).toContain(await id('L1'));
  });

  it('until they come back does not end with a visit that goes on', async () => {
    const at = (minutes: number) => new Date(runtime.clock.now() + minutes * 60_000).toISOString();
    const lines = [-10, 1, 20, 45].map((minutes) => `${at(minutes)},L1,DRY,D1,opened`);
    await bringIn(runtime, 'access-log', logOf(lines.slice(0, 1)));
    await setAside(runtime, view.viewer, [await id('L1')], { reason: 'Knows', until: 'back' });
    runtime.setNow(at(50));
    await bringIn(runtime, 'access-log', logOf(lines));
    expect(await onWatch()).not.toContain(await id('L1'));
    const later = at(120);
    runtime.setNow(at(121));
    await bringIn(runtime, 'access-log', logOf([`${later},L1,DRY,D1,opened`]));
    expect(await onWatch()).toContain(await id('L1'));
  });

  it('until they come back does not end with what was known already, from a clock that runs ahead', async () => {
    const ahead = new Date(runtime.clock.now() + 3 * 60_000).toISOString();
    await bringIn(runtime, 'access-log', logOf([`${ahead},L1,DRY,D1,opened`]));
    await setAside(runtime, view.viewer, [await id('L1')], { reason: 'Knows', until: 'back' });
    expect(await onWatch()).not.toContain(await id('L1'));
    runtime.setNow('2026-11-26T09:00:00Z');
    await bringIn(runtime, 'access-log', logOf(['2026-11-25T10:00:00Z,L1,DRY,D1,opened']));
    expect(await onWatch()).toContain(await id('L1'));
  });

  it('is one’s own: somebody else still sees them; by hand it ends at once', async () => {
    await setAside(runtime, view.viewer, [await id('L1')], { reason: 'x', until: 'back' });
    const other = await openDriftView(runtime, await viewerByEmail(runtime, 'mentor@staff.example'));
    expect((await needOrder(runtime, other)).map((row) => row.learnerId)).toContain(await id('L1'));
    await bringBack(runtime, view.viewer, [await id('L1')]);
    expect(await onWatch()).toContain(await id('L1'));
  });

  it('names what is wrong, a 30 February too, and refuses who is out of scope', async () => {
    const one = [await id('L1')];
    const wrong = (values: Values) => setAside(runtime, view.viewer, one, values);
    await expect(wrong({ until: 'back' })).rejects.toThrow('reason is missing');
    await expect(wrong({ reason: 'x', until: 'date', date: '2027-02-30' })).rejects.toThrow('date is not a date');
    await expect(wrong({ reason: 'x', until: 'date' })).rejects.toThrow('date is missing');
    await expect(wrong({ reason: 'x', until: 'date', date: '2026-11-24' })).rejects.toThrow('after today');
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    await expect(setAside(runtime, coordinator, [await id('L3')], { reason: 'x', until: 'back' })).rejects.toThrow(
      'Nobody',
    );
  });
});

describe('the Watch', () => {
  it('narrows by band and by a stretch of drift, and takes nonsense for no filter', async () => {
    expect(readWatchFilter({ band: '7', drift: '80-20' })).toEqual({ part: 'now', band: null, drift: null });
    expect(readWatchFilter({ band: '2', drift: '20-80' })).toEqual({ part: 'now', band: '2', drift: [20, 80] });
    expect(readWatchFilter({ part: 'away' }).part).toBe('away');
    expect(readWatchFilter({ part: 'gone' }).part).toBe('now');
    await bringIn(runtime, 'access-log', logOf(['2026-11-23T10:00:00Z,L2,DRY,D2,submitted']));
    expect(await allMatching(runtime, view, { part: 'now', band: '0', drift: null })).toEqual([await id('L2')]);
    expect(await allMatching(runtime, view, { part: 'now', band: null, drift: [50, 100] })).not.toContain(
      await id('L2'),
    );
  });

  it('counts who is new in a band since a week ago, and gives the Shoreline everybody', async () => {
    await bringIn(
      runtime,
      'access-log',
      logOf([
        '2026-11-08T10:00:00Z,L2,DRY,D2,submitted',
        '2026-11-14T10:00:00Z,L2,DRY,D2,opened',
        '2026-11-15T10:00:00Z,L2,DRY,D2,opened',
        // The log goes on.
        '2026-11-23T10:00:00Z,S3,DRY,D1,opened',
      ]),
    );
    const watch = await watchPage(runtime, view, { part: 'now', band: null, drift: null }, 1);
    // Of L3's course no visit is told: there nobody is held to have never started.
    expect([watch.counts[2], watch.fresh[2], watch.shoreline.length]).toEqual([1, 1, 2]);
    // The others never started, and stand on a list of their own.
    expect([watch.inPart, watch.total, watch.parts.never.count]).toEqual([2, 4, 2]);
    expect(
      watch.shoreline.map(unpackPerson).find((one) => one.id === watch.people.find((p) => p.learnerId === 'L2')!.id)
        ?.weekAgo,
    ).toBeLessThan(40);
  });

  it('gives names of those in view alone', async () => {
    const coordinator = await openDriftView(runtime, await viewerByEmail(runtime, 'norrick@partner.example'));
    expect(Object.values(await watchNames(runtime, coordinator))).toEqual([{ name: 'Ines Marrow', learnerId: 'L1' }]);
  });
});

it('the capacity is one’s own, and checked', async () => {
  expect(await capacityOf(runtime, view.viewer)).toBe(10);
  await setCapacity(runtime, view.viewer, { capacity: '6' });
  expect(await capacityOf(runtime, view.viewer)).toBe(6);
  expect(await capacityOf(runtime, await viewerByEmail(runtime, 'mentor@staff.example'))).toBe(10);
  await expect(setCapacity(runtime, view.viewer, { capacity: '0' })).rejects.toThrow('1 to 1000');
});

describe('the change of drift', () => {
  it('is told to whoever knew the old readings, until they have been told', async () => {
    // A new installation knew none.
    expect(await isToBeToldOfDrift(runtime, view.viewer)).toBe(false);
    await runtime.db('setting').insert({ name: 'drift_changed', value: '2' });
    expect(await isToBeToldOfDrift(runtime, view.viewer)).toBe(true);
    await dismissModelNotice(runtime, view.viewer);
    expect(await isToBeToldOfDrift(runtime, view.viewer)).toBe(false);
    expect(await isToBeToldOfDrift(runtime, await viewerByEmail(runtime, 'mentor@staff.example'))).toBe(true);
  });
});
