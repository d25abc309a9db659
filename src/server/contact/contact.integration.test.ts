import type { AddressInfo } from 'node:net';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openGateway, type Gateway } from '../../../stand-ins/sms/gateway';
import { findNotes, listLabels } from '@/data/contact/notes';
import { combine } from '@/core/drift/bands';
import { findFollowUps } from '@/data/contact/follow-ups';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import { changeLabels, keepNote, logCall, removeNote, takeBackCall } from './contact';
import { closeFollowUp, handOver, moveFollowUp, openFollowUps, promise, reopenFollowUp } from './follow-ups';
import { openCarriers, sendDue } from './outbox';
import { changeLearner } from '../people/roster';
import { keepTemplate, moveTemplate, removeTemplate } from './templates';
import { listTemplates } from '@/data/contact/templates';
import { MOST_RECIPIENTS, UNDO_TIME, openDraft, sendDraft, startDraft, undoSend } from './write';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { explainPeople } from '../people/people';
import { openView } from '../request/view';
import { timelineOf } from '../people/timeline';
import { TIMELINE_KINDS } from '@/core/contact/timeline';

let runtime: TestRuntime;
let lead: Viewer;
let view: View;

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  view = await openView(runtime, lead);
});
afterEach(() => runtime.close());

const id = async (learner: string) => (await findLearner(runtime.db, lead, learner))!;
const as = async (email: string) => openView(runtime, await viewerByEmail(runtime, email));
const mine = (of: View = view) => openFollowUps(runtime, of, { whose: 'mine', state: null, page: 1 });
const open = async (of: View = view) => (await mine(of)).rows;

describe('coming back', () => {
  const said = async (learner: string) => {
    const of = { wakeDays: 1, visits: 0, contacts: 1, status: 'active' } as const;
    const [person] = await explainPeople(runtime, await openView(runtime, lead), [await id(learner)], of);
    return person.contacts[0].says;
  };
  const after = (minutes: number) => new Date(runtime.clock.now() + minutes * 60_000).toISOString();

  it('follows a call that was taken, and none that nobody took', async () => {
    await logCall(runtime, view, await id('L1'), { outcome: 'no_answer', remark: '' });
    await logCall(runtime, view, await id('L2'), { outcome: 'left_word', remark: '' });
    const lines = ['L1', 'L2'].map((learner) => `${after(1)},${learner},DRY,D1,opened`);
    runtime.setNow(after(5));
    await bringIn(runtime, 'access-log', logOf(lines));
    expect(await said('L1')).toBe('You called today · no answer');
    expect(await said('L2')).toBe('You called today · left word · came back');
  });

  it('is a hand-in or a session as well', async () => {
    await logCall(runtime, view, await id('L1'), { outcome: 'reached', remark: '' });
    await logCall(runtime, view, await id('L4'), { outcome: 'reached', remark: '' });
    const handedIn = after(60);
    runtime.setNow(after(26 * 60));
    await bringIn(runtime, 'results', `learner_id,course,item_id,attempt,submitted_at\nL1,DRY,D2,1,${handedIn}\n`);
    await bringIn(
      runtime,
      'sessions',
      'course,session_id,title,starts_at,ends_at\nDRY,EVE,Evening,2026-11-24T18:00:00Z,2026-11-24T19:00:00Z\n',
    );
    await bringIn(runtime, 'marks', 'session_id,learner_id,mark\nEVE,L4,late\n');
    expect(await said('L1')).toBe('You called yesterday · reached · came back');
    expect(await said('L4')).toBe('You called yesterday · reached · came back');
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
      logCall(runtime, of, await id('L3'), { outcome: 'reached', ...values });
    await expect(call({ outcome: 'shouted' })).rejects.toThrow('outcome is not one of');
    await expect(call({ next: '2026-02-30' })).rejects.toThrow('next is not a date');
    await expect(call({ next: '2026-11-23' })).rejects.toThrow('next lies before today');
    await expect(call({}, await as('mentor@staff.example'))).rejects.toThrow('No such learner');
    expect(await runtime.db('call')).toEqual([]);
  });

  it('is seen at once by a colleague, who is warned before writing', async () => {
    await logCall(runtime, await as('mentor@staff.example'), await id('L1'), { outcome: 'reached' });
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
    await keepNote(runtime, mentor.viewer, learner, { body: 'Works nights', labels: ['work'] });
    await keepNote(runtime, mentor.viewer, learner, { body: 'Mine alone', audience: 'self' });
    const bodies = async (of: View, search = {}) =>
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
    const note = await keepNote(runtime, lead, await id('L1'), { body: 'x' });
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
    await keepNote(runtime, lead, await id('L1'), { body: 'x', labels: ['harvest', 'work'] });
    const harvest = (await listLabels(runtime.db)).find((label) => label.name === 'harvest')!;
    await changeLabels(runtime, lead, { id: harvest.id, name: 'season' });
    expect((await findNotes(runtime.db, view, { limit: 1 })).rows[0].labels).toEqual(['work', 'season']);
    await changeLabels(runtime, lead, { remove: harvest.id });
    expect((await findNotes(runtime.db, view, { limit: 1 })).rows[0].labels).toEqual(['work']);
    await expect(keepNote(runtime, lead, await id('L1'), { body: 'x', labels: ['season'] })).rejects.toThrow('gone');
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

describe('templates', () => {
  const form = { name: 'Hello', subject: 'Hi {{given_name}}', body: 'Hello' };

  it('check their fields when they are kept', async () => {
    const bad = { name: 'x', subject: '{{surname}}', body: '{{given_name}' };
    await expect(keepTemplate(runtime, lead, null, bad)).rejects.toThrow(
      /subject has a field that does not exist: surname/,
    );
    await expect(keepTemplate(runtime, lead, null, bad)).rejects.toThrow(/body has \{\{ or \}\}/);
    expect(await listTemplates(runtime.db, lead)).toEqual([]);
  });

  it('are a team’s, and only the team changes them; a lead’s are everyone’s', async () => {
    const instructor = await viewerByEmail(runtime, 'instructor@staff.example');
    const other = await viewerByEmail(runtime, 'one@staff.example');
    await expect(keepTemplate(runtime, instructor, null, form)).rejects.toThrow('only a lead');
    await expect(keepTemplate(runtime, instructor, null, { ...form, course: 'NET' })).rejects.toThrow('none of yours');
    const own = await keepTemplate(runtime, instructor, null, { ...form, course: 'DRY' });
    const all = await keepTemplate(runtime, lead, null, { ...form, name: 'All' });
    const names = async (viewer: Viewer) => (await listTemplates(runtime.db, viewer)).map((one) => one.name);
    expect(await names(instructor)).toEqual(['Hello', 'All']);
    expect(await names(other)).toEqual(['All']);
    await expect(keepTemplate(runtime, instructor, all, { ...form, course: 'DRY' })).rejects.toThrow(
      'No such template',
    );
    await moveTemplate(runtime, lead, all, -1);
    expect(await names(instructor)).toEqual(['All', 'Hello']);
    await removeTemplate(runtime, instructor, own);
    expect(await names(instructor)).toEqual(['All']);
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    await expect(keepTemplate(runtime, coordinator, null, form)).rejects.toThrow();
  });
});

describe('text messages', () => {
  let gateway: Gateway;
  let url: string;
  beforeEach(async () => {
    gateway = openGateway();
    await new Promise<void>((resolve) => gateway.server.listen(0, '127.0.0.1', resolve));
    url = `http://127.0.0.1:${(gateway.server.address() as AddressInfo).port}`;
  });
  afterEach(() => new Promise((resolve) => gateway.server.close(resolve)));

  const carriers = () => openCarriers({ ...runtime.settings, smsUrl: url });
  const text = { subject: 'Hi', body: 'Hello {{given_name}}, {{my_name}}' };
  async function queue(...learners: string[]) {
    const draft = await startDraft(runtime, view, await Promise.all(learners.map(id)));
    const result = await sendDraft(runtime, view, draft, { ...text, channel: 'preferred' }, []);
    runtime.passTime(UNDO_TIME);
    return { draft, result };
  }
  const prefer = async (learner: string, preferred_channel: string, more = {}) =>
    changeLearner(runtime, lead, await id(learner), {
      given_name: 'Ines',
      phone: '+44 1632 960001',
      email: 'l1@learner.example',
      preferred_channel,
      ...more,
    });

  it('go to whoever prefers them, over the gateway, once', async () => {
    await prefer('L1', 'sms');
    await queue('L1', 'L2');
    // There is no mail server here, so the mail waits and only the text message goes.
    expect(await sendDue(runtime, carriers())).toBe(1);
    expect(gateway.texts).toMatchObject([
      { to: '+441632960001', text: 'Hello Ines, Hesper Vane', from: 'Hesper Vane' },
    ]);
    expect(await sendDue(runtime, carriers())).toBe(0);
    expect(await runtime.db('message').orderBy('learner_id').pluck('state')).toEqual(['sent', 'queued']);
  });

  it('are tried again while the gateway is away, and never doubled', async () => {
    await prefer('L1', 'sms');
    await queue('L1');
    gateway.refuse(503);
    await sendDue(runtime, carriers());
    expect(await runtime.db('message').first()).toMatchObject({ state: 'queued', attempts: 1 });
    gateway.refuse(null);
    runtime.passTime(10_000);
    await sendDue(runtime, carriers());
    // The answer was lost on its way: tried again, it is the same message to the gateway.
    await runtime.db('message').update({ state: 'queued', next_try_at: 0 });
    await sendDue(runtime, carriers());
    expect(gateway.texts).toHaveLength(1);
  });

  it('that the gateway refuses are failed and say why', async () => {
    await prefer('L1', 'sms');
    await queue('L1');
    gateway.refuse(422);
    await sendDue(runtime, carriers());
    expect(await runtime.db('message').first()).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('The gateway refused it: 422'),
    });
  });

  it('and mail are held through the learner’s own quiet hours', async () => {
    await prefer('L1', 'sms', { timezone: 'Pacific/Auckland' });
    // 09:10 in Dublin is 22:10 there.
    const { result } = await queue('L1');
    expect(result).toMatchObject({ outcome: 'queued', queued: 1, held: 1 });
    expect(await sendDue(runtime, carriers())).toBe(0);
    runtime.setNow('2026-11-24T19:00:00Z');
    expect(await sendDue(runtime, carriers())).toBe(1);
  });
});

describe('writing to many', () => {
  it('of 2,000 of whom 40 have no address, 1,960 are queued and 40 named', async () => {
    const rows = Array.from(
      { length: 2000 },
      (_, i) => `M${i},Ulf,Brine${i},${i % 50 === 0 ? '' : `m${i}@learner.example`},DRY,A`,
    );
    await bringIn(runtime, 'roster', `learner_id,given_name,family_name,email,course,group\n${rows.join('\n')}\n`);
    const ids = await runtime.db('learner').whereLike('external_id', 'M%').pluck('id');
    const draft = await startDraft(runtime, view, ids);
    const result = await sendDraft(
      runtime,
      view,
      draft,
      { subject: 'Hi', body: 'Hello {{given_name}}', look_again: '2026-11-30' },
      [],
    );
    expect(result).toMatchObject({ outcome: 'queued', queued: 1960 });
    expect(result.outcome === 'queued' && result.stopped).toHaveLength(40);
    expect(result.outcome === 'queued' && result.stopped[0].why).toBe('has no e-mail address');
    expect(await runtime.db('message').count('* as n')).toEqual([{ n: 1960 }]);
    expect(await runtime.db('follow_up').count('* as n')).toEqual([{ n: 1960 }]);
    // However many there are, they are counted in full and shown a page at a time.
    const list = await openFollowUps(runtime, view, { whose: 'mine', state: 'waiting', page: 20 });
    expect(list).toMatchObject({ listed: 1960, total: 1960, pages: 20, counts: { waiting: 1960 } });
    expect(list.rows).toHaveLength(60);
    expect(await undoSend(runtime, view, draft)).toBe(true);
    expect(await runtime.db('follow_up').count('* as n')).toEqual([{ n: 0 }]);
  });

  it('of more than one message may go to, none are silently left out', async () => {
    const many = Array.from({ length: MOST_RECIPIENTS + 1 }, (_, i) => i);
    await expect(startDraft(runtime, view, many)).rejects.toThrow('are more than 5,000');
  });

  it('refuses a day to look again that is past or is none', async () => {
    const draft = await startDraft(runtime, view, [await id('L1')]);
    const send = (look_again: string) => sendDraft(runtime, view, draft, { subject: 'x', body: 'y', look_again }, []);
    await expect(send('2026-11-01')).rejects.toThrow('look_again lies before today');
    await expect(send('2026-02-30')).rejects.toThrow('look_again is not a date');
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
    await keepNote(runtime, lead, learner, { body: 'A note' });
    await logCall(runtime, view, learner, { outcome: 'reached', next: '2026-11-25' });
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
    const whole = await openView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
    const l1 = (await findLearner(runtime.db, whole.viewer, 'L1'))!;
    const [id] = await promise(runtime, whole, [l1], { due: '2026-12-01', reason: 'ask' });
    const stored = JSON.parse((await runtime.db('follow_up').where({ id }).first())!.snapshot);
    expect(stored.courses).toHaveLength(2);
    const [dry] = await runtime.db('course').where('code', 'DRY').select('id');
    const own = stored.courses.find((one: { courseId: number }) => one.courseId === dry.id);
    const seenBy = async (email: string) => {
      const view = await openView(runtime, await viewerByEmail(runtime, email));
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
