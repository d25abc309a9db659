import type { AddressInfo } from 'node:net';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openGateway, type Gateway } from '../../../stand-ins/sms/gateway';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { openFollowUps } from './follow-ups';
import { openCarriers, sendDue } from './outbox';
import { changeLearner } from '../people/roster';
import { saveTemplate, moveTemplate, removeTemplate } from './templates';
import { listTemplates } from '@/data/contact/templates';
import { MOST_RECIPIENTS, UNDO_TIME, sendDraft, startDraft, undoSend } from './write';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openDriftView } from '../request/view';

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

describe('templates', () => {
  const form = { name: 'Hello', subject: 'Hi {{given_name}}', body: 'Hello' };

  it('check their fields when they are kept', async () => {
    const bad = { name: 'x', subject: '{{surname}}', body: '{{given_name}' };
    await expect(saveTemplate(runtime, lead, null, bad)).rejects.toThrow(
      /subject has a field that does not exist: surname/,
    );
    await expect(saveTemplate(runtime, lead, null, bad)).rejects.toThrow(/body has \{\{ or \}\}/);
    expect(await listTemplates(runtime.db, lead)).toEqual([]);
  });

  it('are a team’s, and only the team changes them; a lead’s are everyone’s', async () => {
    const instructor = await viewerByEmail(runtime, 'instructor@staff.example');
    const other = await viewerByEmail(runtime, 'one@staff.example');
    await expect(saveTemplate(runtime, instructor, null, form)).rejects.toThrow('only a lead');
    await expect(saveTemplate(runtime, instructor, null, { ...form, course: 'NET' })).rejects.toThrow('none of yours');
    const own = await saveTemplate(runtime, instructor, null, { ...form, course: 'DRY' });
    const all = await saveTemplate(runtime, lead, null, { ...form, name: 'All' });
    const names = async (viewer: Viewer) => (await listTemplates(runtime.db, viewer)).map((one) => one.name);
    expect(await names(instructor)).toEqual(['Hello', 'All']);
    expect(await names(other)).toEqual(['All']);
    await expect(saveTemplate(runtime, instructor, all, { ...form, course: 'DRY' })).rejects.toThrow(
      'No such template',
    );
    await moveTemplate(runtime, lead, all, -1);
    expect(await names(instructor)).toEqual(['All', 'Hello']);
    await removeTemplate(runtime, instructor, own);
    expect(await names(instructor)).toEqual(['All']);
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    await expect(saveTemplate(runtime, coordinator, null, form)).rejects.toThrow();
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
      { subject: 'Hi', body: 'Hello {{given_name}}', follow_up_on: '2026-11-30' },
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

  it('refuses a day to follow up that is past or is none', async () => {
    const draft = await startDraft(runtime, view, [await id('L1')]);
    const send = (follow_up_on: string) =>
      sendDraft(runtime, view, draft, { subject: 'x', body: 'y', follow_up_on }, []);
    await expect(send('2026-11-01')).rejects.toThrow('follow_up_on lies before today');
    await expect(send('2026-02-30')).rejects.toThrow('follow_up_on is not a date');
  });
});
