import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findNotes, listLabels } from '@/data/contact/notes';
import { combine } from '@/core/drift/bands';
import { findFollowUps } from '@/data/contact/follow-ups';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { changeLabels, saveNote, logCall, removeNote, takeBackCall } from './contact';
import { closeFollowUp, handOver, moveFollowUp, openFollowUps, promise, reopenFollowUp } from './follow-ups';
import { changeLearner } from '../people/roster';
import { openDraft, sendDraft, startDraft } from './write';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { explainPeople } from '../people/people';
import { openDriftView } from '../request/view';
import { timelineOf } from '../people/timeline';
import { TIMELINE_KINDS } from '@/core/contact/timeline';

let runtime: TestRuntime;
let lead: Viewer;
let view: DriftView;

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  view = await openDriftView(runtime, lead);
});
afterEach(() => runtime.close());

const id = async (learner: string) => (await findLearner(runtime.db, lead, learner))!;
const as = async (email: string) => openDriftView(runtime, await viewerByEmail(runtime, email));
const mine = (of: DriftView = view) => openFollowUps(runtime, of, { whose: 'mine', state: null, page: 1 });
const open = async (of: DriftView = view) => (await mine(of)).rows;

describe('coming back', () => {
  const said = async (learner: string) => {
    const of = { wakeDays: 1, visits: 0, contacts: 1, status: 'active' } as const;
    const [person] = await explainPeople(runtime, await openDriftView(runtime, lead), [await id(learner)], of);
    return person.contacts[0].says;
  };
  const after = (minutes: number) => new Date(runtime.clock.now() + minutes * 60_000).toISOString();

  it('follows a call that was taken, and none that nobody took', async () => {
    await logCall(runtime, view, await id('L1'), { outcome: 'no_answer', remark: '' });
    await logCall(runtime, view, await id('L2'), { outcome: 'left_message', remark: '' });
    const lines = ['L1', 'L2'].map((learner) => `${after(1)},${learner},DRY,D1,opened`);
    runtime.setNow(after(5));
    await bringIn(runtime, 'access-log', logOf(lines));
    expect(await said('L1')).toBe('You called today · no answer');
    expect(await said('L2')).toBe('You called today · left a message · came back');
  });

  it('is a hand-in or a session as well', async () => {
    await logCall(runtime, view, await id('L1'), { outcome: 'spoke', remark: '' });
    await logCall(runtime, view, await id('L4'), { outcome: 'spoke', remark: '' });
    const handedIn = after(60);
    runtime.setNow(after(26 * 60));
    await bringIn(runtime, 'results', `learner_id,course,item_id,attempt,submitted_at\nL1,DRY,D2,1,${handedIn}\n`);
    await bringIn(
      runtime,
      'sessions',
      'course,session_id,title,starts_at,ends_at\nDRY,EVE,Evening,2026-11-24T18:00:00Z,2026-11-24T19:00:00Z\n',
    );
    await bringIn(runtime, 'marks', 'session_id,learner_id,mark\nEVE,L4,late\n');
    expect(await said('L1')).toBe('You called yesterday · spoke · came back');
    expect(await said('L4')).toBe('You called yesterday · spoke · came back');
  });
});

describe('a call', () => {
  it('is on record with a follow-up on its next day, and can be taken back', async () => {
    await bringIn(runtime, 'access-log', logOf(['2026-11-20T10:00:00Z,L2,DRY,D2,submitted']));
    const learner = await id('L1');
    const logged = await logCall(runtime, view, learner, {
      outcome: 'no_answer',
      remark: 'Rang long',
      next: '2026-11-27',
    });
    const [followUp] = await open();
    expect(followUp).toMatchObject({ learner_id: 'L1', state: 'waiting', reason: 'Called: no answer · Rang long' });
    expect(followUp.snapshot).toMatchObject({
      band: 'adrift',
      says: [expect.stringContaining('Has handed in nothing')],
    });
    const { entries } = await timelineOf(runtime, view, learner, { kinds: ['contact'], before: null });
    expect(entries).toMatchObject([{ contact: { kind: 'call', says: 'You called today · no answer' } }]);
    await takeBackCall(runtime, lead, logged);
    expect(await open()).toEqual([]);
    await expect(takeBackCall(runtime, lead, logged)).rejects.toThrow('No such call');
  });

  it('needs an outcome, a date that exists and is not past, and a learner in scope', async () => {
    const call = async (values: object, of = view) =>
      logCall(runtime, of, await id('L3'), { outcome: 'spoke', ...values });
    await expect(call({ outcome: 'shouted' })).rejects.toThrow('outcome is not one of');
    await expect(call({ next: '2026-02-30' })).rejects.toThrow('next is not a date');
    await expect(call({ next: '2026-11-23' })).rejects.toThrow('next lies before today');
    await expect(call({}, await as('mentor@staff.example'))).rejects.toThrow('No such learner');
    expect(await runtime.db('call')).toEqual([]);
  });

  it('is seen at once by a colleague, who is warned before writing', async () => {
    await logCall(runtime, await as('mentor@staff.example'), await id('L1'), { outcome: 'spoke' });
    const draft = await startDraft(runtime, view, [await id('L1')]);
    expect((await openDraft(runtime, view, draft)).recipients[0].contacted).not.toBeNull();
    expect(await sendDraft(runtime, view, draft, { subject: 'Hi', body: 'Hello' }, [])).toMatchObject({
      outcome: 'contacted',
    });
  });
});

describe('notes', () => {
  it('are for oneself or for staff, and a partner’s contact reads no staff note', async () => {
    const learner = await id('L1');
    const mentor = await as('mentor@staff.example');
    await saveNote(runtime, mentor.viewer, learner, { body: 'Works nights', labels: ['work'] });
    await saveNote(runtime, mentor.viewer, learner, { body: 'Mine alone', audience: 'self' });
    const bodies = async (of: DriftView, search = {}) =>
      (await findNotes(runtime.db, of, { limit: 10, ...search })).rows.map((note) => note.body);
    expect(await bodies(mentor)).toEqual(['Mine alone', 'Works nights']);
    expect(await bodies(view)).toEqual(['Works nights']);
    expect(await bodies(await as('norrick@partner.example'))).toEqual([]);
    expect(await bodies(view, { q: 'NIGHT marrow' })).toEqual(['Works nights']);
    expect(await bodies(view, { q: '100%' })).toEqual([]);
    expect(await bodies(view, { label: 'work' })).toEqual(['Works nights']);
    expect(await bodies(view, { label: 'health' })).toEqual([]);
    expect(await bodies(await as('one@staff.example'))).toEqual([]);
  });

  it('are taken back by whoever kept them, and by nobody else', async () => {
    const note = await saveNote(runtime, lead, await id('L1'), { body: 'x' });
    const other = await viewerByEmail(runtime, 'mentor@staff.example');
    await expect(removeNote(runtime, other, note, true)).rejects.toThrow('No such note');
    await removeNote(runtime, lead, note, true);
    expect((await findNotes(runtime.db, view, { limit: 5 })).total).toBe(0);
    await removeNote(runtime, lead, note, false);
    expect((await findNotes(runtime.db, view, { limit: 5 })).total).toBe(1);
  });

  it('carry labels of a set that a lead edits', async () => {
    await changeLabels(runtime, lead, { add: 'harvest' });
    await expect(changeLabels(runtime, lead, { add: 'Harvest' })).rejects.toThrow('is a label already');
    await saveNote(runtime, lead, await id('L1'), { body: 'x', labels: ['harvest', 'work'] });
    const harvest = (await listLabels(runtime.db)).find((label) => label.name === 'harvest')!;
    await changeLabels(runtime, lead, { id: harvest.id, name: 'season' });
    expect((await findNotes(runtime.db, view, { limit: 1 })).rows[0].labels).toEqual(['work', 'season']);
    await changeLabels(runtime, lead, { remove: harvest.id });
    expect((await findNotes(runtime.db, view, { limit: 1 })).rows[0].labels).toEqual(['work']);
    await expect(saveNote(runtime, lead, await id('L1'), { body: 'x', labels: ['season'] })).rejects.toThrow('gone');
    await expect(
      changeLabels(runtime, await viewerByEmail(runtime, 'mentor@staff.example'), { add: 'y' }),
    ).rejects.toThrow();
  });
});

describe('follow-ups', () => {
  const promised = async (due: string) => (await promise(runtime, view, [await id('L1')], { due, reason: 'Look' }))[0];

  it('go from later over due today to overdue, and to came back by the learner’s doing', async () => {
    await promised('2026-11-26');
    const state = async () => (await open())[0].state;
    expect(await state()).toBe('later');
    runtime.setNow('2026-11-26T09:00:00Z');
    expect(await state()).toBe('due_today');
    runtime.setNow('2026-11-27T09:00:00Z');
    expect(await state()).toBe('overdue');
    await bringIn(runtime, 'access-log', logOf(['2026-11-27T08:00:00Z,L1,DRY,D1,opened']));
    expect((await mine()).counts).toMatchObject({ came_back: 1, overdue: 0 });
  });

  it('are closed with an outcome, opened again, moved', async () => {
    const followUp = await promised('2026-11-26');
    await expect(closeFollowUp(runtime, lead, followUp, { outcome: 'whatever' })).rejects.toThrow(
      'outcome is not one of',
    );
    await moveFollowUp(runtime, lead, followUp, { due: '2026-12-01' });
    await expect(moveFollowUp(runtime, lead, followUp, { due: '2026-02-30' })).rejects.toThrow('due is not a date');
    await closeFollowUp(runtime, lead, followUp, { outcome: 'agreed' });
    expect(await open()).toEqual([]);
    await expect(closeFollowUp(runtime, lead, followUp, { outcome: 'agreed' })).rejects.toThrow(
      'No such open follow-up',
    );
    await reopenFollowUp(runtime, lead, followUp);
    expect(await open()).toMatchObject([{ due_day: 20788, outcome: null }]);
  });

  it('are handed to a colleague who sees the learner, and to nobody else', async () => {
    const followUp = await promised('2026-11-26');
    const mentor = await as('mentor@staff.example');
    const stranger = await viewerByEmail(runtime, 'one@staff.example');
    await expect(handOver(runtime, lead, followUp, stranger.staffId)).rejects.toThrow('No colleague');
    await handOver(runtime, lead, followUp, mentor.viewer.staffId);
    expect(await open()).toEqual([]);
    expect(await open(mentor)).toHaveLength(1);
    await expect(closeFollowUp(runtime, stranger, followUp, { outcome: 'agreed' })).rejects.toThrow('No such open');
  });
});

describe('a learner’s story', () => {
  it('has everything in one order, by kind, page by page', async () => {
    const learner = await id('L1');
    const lines = Array.from(
      { length: 60 },
      (_, i) => `2026-10-${String(1 + (i % 30)).padStart(2, '0')}T1${i < 30 ? 0 : 5}:00:00Z,L1,DRY,D1,opened`,
    );
    await bringIn(runtime, 'access-log', logOf(lines));
    await saveNote(runtime, lead, learner, { body: 'A note' });
    await logCall(runtime, view, learner, { outcome: 'spoke', next: '2026-11-25' });
    await changeLearner(runtime, lead, learner, {
      given_name: 'Ines',
      family_name: 'Marrow',
      email: 'new@learner.example',
    });
    const all = { kinds: [...TIMELINE_KINDS], before: null };
    const first = await timelineOf(runtime, view, learner, all);
    expect(new Set(first.entries.map((entry) => entry.kind))).toEqual(
      new Set(['note', 'contact', 'follow_up', 'change', 'visit']),
    );
    const seen = [...first.entries];
    for (let { older } = first; older !== null;) {
      const next = await timelineOf(runtime, view, learner, { ...all, before: older });
      seen.push(...next.entries);
      ({ older } = next);
    }
    expect(seen).toHaveLength(64);
    expect(seen.map((entry) => entry.at)).toEqual(seen.map((entry) => entry.at).sort((a, b) => b - a));
    const visits = await timelineOf(runtime, view, learner, { kinds: ['visit'], before: null });
    expect(visits.entries.every((entry) => entry.kind === 'visit')).toBe(true);
  });
});

describe('what drift said when a follow-up was made', () => {
  it('is kept by course, and each reader is shown what is theirs to see', async () => {
    const whole = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
    const l1 = (await findLearner(runtime.db, whole.viewer, 'L1'))!;
    const [id] = await promise(runtime, whole, [l1], { due: '2026-12-01', reason: 'ask' });
    const stored = JSON.parse((await runtime.db('follow_up').where({ id }).first())!.snapshot);
    expect(stored.courses).toHaveLength(2);
    const [dry] = await runtime.db('course').where('code', 'DRY').select('id');
    const own = stored.courses.find((one: { courseId: number }) => one.courseId === dry.id);
    const seenBy = async (email: string) => {
      const view = await openDriftView(runtime, await viewerByEmail(runtime, email));
      return (await findFollowUps(runtime.db, view, { state: 'open', limit: 50 })).find((row) => row.id === id)!
        .snapshot;
    };
    expect(await seenBy('instructor@staff.example')).toMatchObject({ drift: own.score, says: own.says.slice(0, 4) });
    expect((await seenBy('lead@staff.example')).drift).toBeCloseTo(combine(stored.courses).score!);
    // Of one kept before courses were told apart, whoever sees a part is told nothing.
    await runtime
      .db('follow_up')
      .where({ id })
      .update({ snapshot: JSON.stringify({ drift: 80, band: 'adrift', says: ['Quiet'] }) });
    expect(await seenBy('lead@staff.example')).toMatchObject({ drift: 80 });
    expect(await seenBy('instructor@staff.example')).toEqual({ drift: null, band: 'no reading', says: [] });
  });
});
