import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { mergeLearners } from '../people/merging';
import { openMailer } from './mailer';
import { sendDue } from './outbox';
import { lessAt, lessLink, pressLess, saveWishes } from './wishes';
import { UNDO_TIME, chooseReceivers, sendDraft, startDraft } from './write';

const PORT = 25_411;
const TEXT = { subject: 'Hi', body: 'Hello {{given_name}}', other_subject: 'About', other_body: 'Dear {{receiver}}' };
let runtime: TestRuntime;
let lead: Viewer;
let inbox: Inbox;
let person: number;
beforeEach(async () => {
  runtime = await smallRuntime();
  Object.assign(runtime.settings, { url: 'https://shore.example' });
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  inbox = await openInbox(PORT);
  person = (await runtime.db('learner').where('external_id', 'L1').first('id'))!.id;
});
afterEach(async () => {
  await inbox.close();
  await runtime.close();
});

async function write(receivers: ('learner' | 'family')[] = ['learner'], channel = 'preferred') {
  const view = await openDriftView(runtime, lead);
  const draft = await startDraft(runtime, view, [person]);
  await chooseReceivers(runtime, view, draft, receivers);
  return sendDraft(runtime, view, draft, { ...TEXT, channel }, [String(person)]);
}

async function deliver() {
  runtime.passTime(UNDO_TIME);
  await sendDue(runtime, { mailer: openMailer(`smtp://127.0.0.1:${PORT}`), gateway: null });
}

const linkIn = (text: string) => /https:\/\/shore\.example\/less\/([\w.-]+)/.exec(text)![1];
const wishes = () => runtime.db('wish').where('learner_id', person).orderBy('wish').pluck('wish');

describe('a learner’s wishes', () => {
  it('are kept to when a message is written, by every way of sending', async () => {
    await saveWishes(runtime, lead, person, { wishes: ['email'] });
    expect(await write(['learner'], 'email')).toMatchObject({
      outcome: 'nobody',
      stopped: [{ why: 'asked to be written to not by e-mail' }],
    });
    // Where there is another way that nobody forbade, it goes that way.
    expect(await write()).toMatchObject({ outcome: 'queued' });
    expect(await runtime.db('message').first('channel')).toEqual({ channel: 'sms' });
    await saveWishes(runtime, lead, person, { wishes: ['all'] });
    for (const channel of ['preferred', 'email', 'sms'])
      expect(await write(['learner'], channel)).toMatchObject({ stopped: [{ why: 'asked not to be written to' }] });
  });

  it('stop a message that waits to go', async () => {
    await write(['learner'], 'email');
    await saveWishes(runtime, lead, person, { wishes: ['email'] });
    await deliver();
    expect(inbox.mails).toEqual([]);
    expect(await runtime.db('message').first()).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('not by e-mail'),
    });
  });

  it('are noted by whoever sees them, and are words that there are', async () => {
    const other = await viewerByEmail(runtime, 'one@staff.example');
    await expect(saveWishes(runtime, other, person, { wishes: ['email'] })).rejects.toThrow(NotFound);
    await expect(saveWishes(runtime, lead, person, { wishes: ['post'] })).rejects.toThrow(InvalidInput);
    await saveWishes(runtime, lead, person, { wishes: ['sms', 'email'] });
    await saveWishes(runtime, lead, person, {});
    expect(await wishes()).toEqual([]);
    expect(await runtime.db('audit').where('what', 'noted a wish').count('* as n')).toEqual([{ n: 2 }]);
  });
});

describe('the link under a mail', () => {
  it('stands there and in the heading, says what it will do first, and does it by one press', async () => {
    await write(['learner'], 'email');
    await deliver();
    const [mail] = inbox.mails;
    const token = linkIn(mail.text);
    expect(mail.headers).toMatchObject({
      'list-unsubscribe': `<https://shore.example/less/${token}>`,
      'list-unsubscribe-post': 'List-Unsubscribe=One-Click',
    });
    // Opening it does nothing, however often: mail servers open everything.
    expect(await lessAt(runtime, token)).toEqual({ kind: 'learner', isDone: false });
    expect(await wishes()).toEqual([]);
    expect(await pressLess(runtime, token, false)).toEqual({ kind: 'learner', isDone: true });
    expect(await pressLess(runtime, token, false)).toEqual({ kind: 'learner', isDone: true });
    expect(await wishes()).toEqual(['email']);
    expect(await runtime.db('wish').first('staff_id')).toEqual({ staff_id: null });
    expect(await pressLess(runtime, token, true)).toEqual({ kind: 'learner', isDone: false });
    expect(await wishes()).toEqual([]);
  });

  it('takes somebody beside a learner out, and is put back by staff alone', async () => {
    await bringIn(
      runtime,
      'contacts',
      'learner_id,name,relation,email,may_receive\nL1,Rhona,family,r@home.example,yes\n',
    );
    await write(['family'], 'email');
    await deliver();
    const token = linkIn(inbox.mails[0].text);
    expect(await pressLess(runtime, token, false)).toEqual({ kind: 'contact', isDone: true });
    expect(await pressLess(runtime, token, true)).toEqual({ kind: 'contact', isDone: true });
    expect(await wishes()).toEqual([]);
  });

  it('is of the record that was kept, where theirs was merged into it', async () => {
    const token = linkIn((await lessLink(runtime, { kind: 'learner', id: person }))!);
    const other = (await runtime.db('learner').where('external_id', 'L5').first('id'))!.id;
    await mergeLearners(runtime, lead, other, person);
    await pressLess(runtime, token, false);
    expect(await runtime.db('wish').select('learner_id', 'wish')).toEqual([{ learner_id: other, wish: 'email' }]);
  });

  it('is of nobody where it was changed, or made up', async () => {
    const link = await lessLink(runtime, { kind: 'learner', id: person });
    const token = linkIn(link!);
    for (const wrong of ['', 'x', token.replace(/^l\d+/, `l${person + 1}`), token.slice(0, -1), `${token}x`, 'l1.'])
      await expect(pressLess(runtime, wrong, false)).rejects.toThrow(NotFound);
    Object.assign(runtime.settings, { url: null });
    expect(await lessLink(runtime, { kind: 'learner', id: person })).toBeNull();
  });
});
