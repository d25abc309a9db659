import { createServer, type Server } from 'node:net';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findLearner } from '@/data/people/learners';
import type { DriftView } from '@/data/view';
import { contactsOf } from '@/data/contact/contacts';
import { settleInterrupted } from '@/data/contact/messages';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import { delayAfter, openCarriers, sendDue } from './outbox';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openDriftView } from '../request/view';
import { UNDO_TIME, saveDraft, openDraft, sendDraft, settleMessage, startDraft, undoSend } from './write';

let runtime: TestRuntime;
let view: DriftView;
let inbox: Inbox | null = null;
let port = 0;

const TEXT = {
  subject: 'About {{course}}',
  body: 'Hello {{given_name}}, last here {{last_access}}, {{days_quiet}} days ago.',
};

beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-10T10:00:00Z,L1,DRY,D1,opened', '2026-11-12T10:00:00Z,L2,DRY,D1,opened']);
  view = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
  port = await freePort();
});
afterEach(async () => {
  await inbox?.close();
  inbox = null;
  await runtime.close();
});

async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as { port: number };
  await new Promise((resolve) => server.close(resolve));
  return port;
}

const id = async (learner: string) => (await findLearner(runtime.db, view.viewer, learner))!;
const mailer = () => openCarriers({ ...runtime.settings, smtpUrl: `smtp://127.0.0.1:${port}` });
const message = () => runtime.db('message').first();

async function queue(...learners: string[]): Promise<number> {
  const draft = await startDraft(runtime, view, await Promise.all(learners.map(id)));
  const result = await sendDraft(runtime, view, draft, TEXT, []);
  expect(result.outcome).toBe('queued');
  runtime.passTime(UNDO_TIME);
  return draft;
}

describe('a draft', () => {
  it('keeps its text until it is sent, and is sent once however often it is asked for', async () => {
    const draft = await startDraft(runtime, view, [await id('L1')]);
    await saveDraft(runtime, view, draft, { subject: 'Hi', body: '' });
    expect((await openDraft(runtime, view, draft)).draft).toMatchObject({ subject: 'Hi', body: '' });
    await Promise.all([1, 2, 3].map(() => sendDraft(runtime, view, draft, TEXT, [])));
    expect(await runtime.db('message').count('* as n')).toEqual([{ n: 1 }]);
    expect(await message()).toMatchObject({
      subject: 'About Drystone Walling',
      body: 'Hello Ines, last here Tue 10 Nov, 14 days ago.',
      address: 'l1@learner.example',
    });
  });

  it('stops those with a missing value or address, and sends the others', async () => {
    const draft = await startDraft(runtime, view, await Promise.all(['L1', 'L3', 'L4'].map(id)));
    const result = await sendDraft(runtime, view, draft, TEXT, []);
    expect(result).toEqual({
      outcome: 'queued',
      queued: 1,
      held: 0,
      stopped: [
        { name: 'Halima Okoro', why: 'has no value for last_access, days_quiet' },
        { name: 'Petra Sandoval', why: 'has no e-mail address' },
      ],
    });
  });

  it('refuses a field that does not exist, and an empty text', async () => {
    const draft = await startDraft(runtime, view, [await id('L1')]);
    await expect(sendDraft(runtime, view, draft, { subject: 'x', body: '{{surname}}' }, [])).rejects.toThrow('surname');
    await expect(sendDraft(runtime, view, draft, { subject: '  ', body: 'x' }, [])).rejects.toThrow(
      'subject is missing',
    );
  });

  it('warns of anybody contacted in the last 5 days, also when two write at once', async () => {
    const other = await openDriftView(runtime, await viewerByEmail(runtime, 'instructor@staff.example'));
    const [mine, theirs] = await Promise.all([
      startDraft(runtime, view, [await id('L1')]),
      startDraft(runtime, other, [await id('L1')]),
    ]);
    const results = await Promise.all([
      sendDraft(runtime, view, mine, TEXT, []),
      sendDraft(runtime, other, theirs, TEXT, []),
    ]);
    expect(results.map((result) => result.outcome).sort()).toEqual(['contacted', 'queued']);
    const late = results[0].outcome === 'contacted' ? ([view, mine] as const) : ([other, theirs] as const);
    expect(await sendDraft(runtime, late[0], late[1], TEXT, [String(await id('L1'))])).toMatchObject({
      outcome: 'queued',
    });
    runtime.setNow('2026-11-30T09:10:00Z');
    const later = await startDraft(runtime, view, [await id('L1')]);
    expect((await openDraft(runtime, view, later)).recipients[0].contacted).toBeNull();
  });

  it('can be taken back until something of it has been tried', async () => {
    const draft = await startDraft(runtime, view, [await id('L1')]);
    await sendDraft(runtime, view, draft, TEXT, []);
    expect(await sendDue(runtime, mailer())).toBe(0);
    expect(await undoSend(runtime, view, draft)).toBe(true);
    expect(await message()).toBeUndefined();
    await sendDraft(runtime, view, draft, TEXT, []);
    runtime.passTime(UNDO_TIME);
    await sendDue(runtime, mailer());
    expect(await undoSend(runtime, view, draft)).toBe(false);
  });
});

describe('the outbox', () => {
  it('delivers over SMTP, once, and says so', async () => {
    inbox = await openInbox(port);
    await queue('L1', 'L2');
    await Promise.all([sendDue(runtime, mailer()), sendDue(runtime, mailer())]);
    expect(inbox.mails.map((mail) => mail.to).sort()).toEqual(['l1@learner.example', 'l2@learner.example']);
    expect(inbox.mails[0]).toMatchObject({
      subject: 'About Drystone Walling',
      from: '"Hesper Vane" <lead@staff.example>',
    });
    expect(await runtime.db('message').pluck('state')).toEqual(['sent', 'sent']);
    expect(await sendDue(runtime, mailer())).toBe(0);
  });

  it('tries again with growing delays while the server is away, then delivers', async () => {
    await queue('L1');
    for (const attempts of [1, 2, 3]) {
      expect(await sendDue(runtime, mailer())).toBe(1);
      expect(await message()).toMatchObject({ state: 'queued', attempts });
      expect(await sendDue(runtime, mailer())).toBe(0);
      runtime.passTime(delayAfter(attempts) + 1);
    }
    expect([1, 2, 3, 4, 99].map(delayAfter)).toEqual([5_000, 15_000, 60_000, 300_000, 3_600_000]);
    inbox = await openInbox(port);
    await sendDue(runtime, mailer());
    expect(inbox.mails).toHaveLength(1);
    expect(await message()).toMatchObject({ state: 'sent', error: null });
  });

  it('does not send again what may have arrived: a person decides', async () => {
    const rude = await silentAfterText(port);
    await queue('L1');
    await sendDue(runtime, mailer());
    expect(await message()).toMatchObject({ state: 'unsure' });
    await new Promise((resolve) => rude.close(resolve));
    inbox = await openInbox(port);
    runtime.passTime(10_000_000);
    expect(await sendDue(runtime, mailer())).toBe(0);
    await settleMessage(runtime, view, (await message())!.id, 'again');
    await sendDue(runtime, mailer());
    expect(inbox.mails).toHaveLength(1);
    await expect(settleMessage(runtime, view, (await message())!.id, 'again')).rejects.toThrow('No such message');
  });

  it('after a crash leaves what was being handed over to a person', async () => {
    await queue('L1');
    await runtime.db('message').update({ state: 'sending' });
    await settleInterrupted(runtime.db);
    expect(await message()).toMatchObject({ state: 'unsure' });
  });

  it('waits when there is no mail server set', async () => {
    await queue('L1');
    expect(await sendDue(runtime, openCarriers(runtime.settings))).toBe(0);
    expect(await message()).toMatchObject({ state: 'queued', attempts: 0 });
  });
});

/** A mail server that takes the text and breaks the line without a word. */
async function silentAfterText(port: number): Promise<Server> {
  const server = createServer((socket) => {
    socket.write('220 rude.example\r\n');
    socket.on('data', (data) => {
      const line = data.toString();
      if (line.startsWith('DATA')) socket.write('354 go on\r\n');
      else if (line.includes('\r\n.\r\n')) socket.destroy();
      else if (/^(EHLO|HELO|MAIL|RCPT)/.test(line)) socket.write('250 ok\r\n');
    });
    socket.on('error', () => undefined);
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return server;
}

describe('the record', () => {
  it('tells when they came back after a message', async () => {
    await queue('L1');
    await bringIn(runtime, 'access-log', logOf(['2026-11-24T09:12:00Z,L1,DRY,D2,opened']));
    runtime.setNow('2026-11-26T09:00:00Z');
    await bringIn(runtime, 'access-log', logOf(['2026-11-25T18:00:00Z,L1,DRY,D2,opened']));
    const [contact] = await contactsOf(runtime.db, view.viewer, [await id('L1')], { each: 1, until: Infinity });
    expect(contact).toMatchObject({
      last_before: Date.parse('2026-11-10T10:00:00Z'),
      first_after: Date.parse('2026-11-24T09:12:00Z'),
    });
  });
});
