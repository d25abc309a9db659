import { afterAll, beforeAll, expect, it } from 'vitest';
import { noteAuthors } from '@/data/contact/notes';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { learnerExtras, learnerPage } from '../people/learner-page';
import { smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { pinNote, saveNote } from './contact';
import { notes } from './notes-list';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
let partner: Viewer;
const ids: number[] = [];
beforeAll(async () => {
  runtime = await smallRuntime();
  [lead, mentor, partner] = await Promise.all(
    ['lead@staff.example', 'mentor@staff.example', 'norrick@partner.example'].map((email) =>
      viewerByEmail(runtime, email),
    ),
  );
  const { id } = (await runtime.db('learner').where('external_id', 'L1').first('id'))!;
  for (const [now, viewer, body, audience] of [
    ['2026-11-02T23:30:00Z', lead, 'Works nights', 'staff'],
    ['2026-11-10T09:00:00Z', mentor, 'Evenings after nine are best', 'staff'],
    ['2026-11-12T09:00:00Z', mentor, 'For myself', 'self'],
  ] as const) {
    runtime.setNow(now);
    ids.push(await saveNote(runtime, viewer, id, { body, audience }));
  }
  runtime.setNow('2026-11-24T09:10:00Z');
});
afterAll(() => runtime.close());

const found = async (values: object, viewer = lead) =>
  (await notes(runtime, viewer, { ...values })).rows.map(({ body }) => body);

it('notes are found by who wrote them, and by day', async () => {
  expect(await found({})).toEqual(['Evenings after nine are best', 'Works nights']);
  expect(await found({ by: 'TOLLAND' })).toEqual(['Evenings after nine are best']);
  expect(await found({ by: 'nobody' })).toEqual([]);
  expect(await found({ from: '2026-11-03' })).toEqual(['Evenings after nine are best']);
  expect(await found({ from: '2026-11-02', to: '2026-11-02' })).toEqual(['Works nights']);
  await expect(found({ from: 'soon' })).rejects.toThrow(InvalidInput);
  expect(await noteAuthors(runtime.db, lead)).toEqual(['Mair Tolland', 'Hesper Vane']);
  expect(await noteAuthors(runtime.db, partner)).toEqual([]);
});

it('a note is pinned by whoever may read it, and stands first on the learner’s page', async () => {
  expect(await found({ pinned: 'yes' })).toEqual([]);
  await pinNote(runtime, mentor, ids[0], true);
  expect(await found({ pinned: 'yes' })).toEqual(['Works nights']);
  const first = async (viewer: Viewer) => {
    const view = await openDriftView(runtime, viewer);
    const { pinned } = await learnerExtras(runtime, view, await learnerPage(runtime, view, 'L1'));
    return pinned.map(({ body, by }) => `${by}: ${body}`);
  };
  expect(await first(mentor)).toEqual(['Hesper Vane: Works nights']);
  expect(await first(partner)).toEqual([]);
  await expect(pinNote(runtime, lead, ids[2], true)).rejects.toThrow(NotFound);
  await expect(pinNote(runtime, partner, ids[0], false)).rejects.toThrow(NotFound);
  await pinNote(runtime, lead, ids[0], false);
  expect(await first(mentor)).toEqual([]);
});
