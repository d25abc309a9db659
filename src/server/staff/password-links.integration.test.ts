import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { HOUR } from '@/core/time/zone';
import { smallRuntime, viewerByEmail, enter, signInWhole, type TestRuntime } from '../testing';
import { givePassword, changeStaff, endStaff } from './staff-accounts';
import {
  askForgotten,
  inviteStaff,
  openLink,
  sendLinks,
  setPasswordByLink,
  takeBackInvitation,
} from './password-links';
import { viewerBySession } from './sessions';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
/** Mails that were handed over, and what the mail server says next. */
let sent: { to: string; subject: string; text: string }[];
let fault: (Error & { status?: number }) | null;

const MENTOR = 'mentor@staff.example';
const URL = 'https://lee-shore.example';

beforeEach(async () => {
  const opened = await smallRuntime();
  runtime = { ...opened, settings: { ...opened.settings, url: URL, smtpUrl: 'smtp://127.0.0.1:1' } };
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, MENTOR);
  sent = [];
  fault = null;
});
afterEach(() => runtime.close());

const send = () =>
  sendLinks(runtime, async ({ to, subject, text }) => {
    if (fault) throw fault;
    sent.push({ to: to.address, subject, text });
  });
const tokenIn = (mail: { text: string }) => /sign-in\/password\/([\w-]+)/.exec(mail.text)![1];
const PASSWORD = { password: 'a password of my own' };

/** Invites the mentor; the token of the mail. */
async function invited(): Promise<string> {
  await inviteStaff(runtime, lead, mentor.staffId);
  await send();
  return tokenIn(sent.at(-1)!);
}

describe('an invitation', () => {
  it('lets somebody who came by file set a password of their own, once, and is on record', async () => {
    const token = await invited();
    expect(sent).toMatchObject([{ to: MENTOR, subject: 'Come in to Lee Shore' }]);
    expect(sent[0].text).toContain('Hesper Vane invites you');
    expect(await openLink(runtime, token)).toEqual({ kind: 'invitation', name: 'Mair Tolland', email: MENTOR });
    // A mail program that opens the link uses nothing up.
    await openLink(runtime, token);
    await setPasswordByLink(runtime, token, PASSWORD);
    expect(await viewerBySession(runtime, await enter(runtime, MENTOR, PASSWORD.password))).toMatchObject({
      name: 'Mair Tolland',
      all: false,
    });
    await expect(setPasswordByLink(runtime, token, PASSWORD)).rejects.toThrow('No such link');
    const audit = await runtime.db('audit').orderBy('id', 'desc').limit(2).select('what', 'staff_id');
    expect(audit).toEqual([
      { what: 'came in by an invitation', staff_id: mentor.staffId },
      { what: 'invited a member of staff', staff_id: lead.staffId },
    ]);
  });

  it('keeps no word that lets in: the database has its hash alone', async () => {
    const token = await invited();
    const rows = await runtime.db('password_link').select('*');
    expect(JSON.stringify(rows)).not.toContain(token);
  });

  it('of two who use it at once lets one', async () => {
    const token = await invited();
    const both = await Promise.allSettled([
      setPasswordByLink(runtime, token, PASSWORD),
      setPasswordByLink(runtime, token, { password: 'another of their own' }),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  });

  it('is good for 72 hours from when its mail went, however long that took', async () => {
    await inviteStaff(runtime, lead, mentor.staffId);
    fault = Object.assign(new Error('try later'), { status: 451 });
    await send();
    expect(await runtime.db('password_link').first('error', 'sent_at', 'ended_at')).toEqual({
      error: 'Not sent yet: try later',
      sent_at: null,
      ended_at: null,
    });
    runtime.setNow('2026-11-26T09:10:00Z');
    fault = null;
    runtime.passTime(HOUR);
    await send();
    const token = tokenIn(sent[0]);
    runtime.setNow('2026-11-29T09:09:00Z');
    await openLink(runtime, token);
    runtime.setNow('2026-11-29T09:10:00Z');
    await expect(openLink(runtime, token)).rejects.toThrow('No such link');
    await expect(setPasswordByLink(runtime, token, PASSWORD)).rejects.toThrow('No such link');
  });

  it('that the mail server refuses says so, and is tried no more', async () => {
    await inviteStaff(runtime, lead, mentor.staffId);
    fault = Object.assign(new Error('no such mailbox'), { status: 550 });
    await send();
    fault = null;
    runtime.passTime(24 * HOUR);
    expect(await send()).toBe(0);
    expect(await runtime.db('password_link').first('error')).toEqual({
      error: 'The mail server refused it: no such mailbox',
    });
  });

  it.each<[string, () => Promise<unknown>]>([
    ['a newer one', () => invited()],
    ['being taken back', () => takeBackInvitation(runtime, lead, mentor.staffId)],
    ['the account ending', () => endStaff(runtime, lead, mentor.staffId, true)],
    ['another password', () => givePassword(runtime, lead, mentor.staffId, PASSWORD)],
    [
      'another e-mail address',
      () =>
        changeStaff(runtime, lead, mentor.staffId, {
          given_name: 'Mair',
          family_name: 'Tolland',
          email: 'new@staff.example',
          role: 'mentor',
        }),
    ],
  ])('is good no more after %s', async (_, done) => {
    const token = await invited();
    await done();
    await expect(setPasswordByLink(runtime, token, PASSWORD)).rejects.toThrow('No such link');
  });

  it('is no way back for an account that was ended and opened again', async () => {
    const token = await invited();
    await endStaff(runtime, lead, mentor.staffId, true);
    await endStaff(runtime, lead, mentor.staffId, false);
    await expect(openLink(runtime, token)).rejects.toThrow('No such link');
  });

  it('is made by leads alone, for somebody who is there, and where mail can be sent', async () => {
    await expect(inviteStaff(runtime, mentor, lead.staffId)).rejects.toThrow('found here');
    await expect(inviteStaff(runtime, lead, 999)).rejects.toThrow('No such member of staff');
    await endStaff(runtime, lead, mentor.staffId, true);
    await expect(inviteStaff(runtime, lead, mentor.staffId)).rejects.toThrow('account has ended');
    const settings = { ...runtime.settings, url: null };
    await expect(inviteStaff({ ...runtime, settings }, lead, mentor.staffId)).rejects.toThrow('LEESHORE_URL');
    await expect(takeBackInvitation(runtime, lead, mentor.staffId)).rejects.toThrow('No such invitation');
  });

  it('takes a password of 12 characters or more, and is not used up by one that is shorter', async () => {
    const token = await invited();
    await expect(setPasswordByLink(runtime, token, { password: 'short' })).rejects.toThrow('at least 12');
    await setPasswordByLink(runtime, token, PASSWORD);
  });

  it('is sent once by two processes', async () => {
    await inviteStaff(runtime, lead, mentor.staffId);
    await Promise.all([send(), send()]);
    expect(sent).toHaveLength(1);
  });
});

describe('a forgotten password', () => {
  beforeEach(() => givePassword(runtime, lead, mentor.staffId, { password: 'the one forgotten' }));

  it('is set anew by a link; what was signed in ends', async () => {
    const before = await enter(runtime, MENTOR, 'the one forgotten');
    await askForgotten(runtime, { email: MENTOR.toUpperCase() });
    await send();
    expect(sent).toMatchObject([{ to: MENTOR, subject: 'A new password for Lee Shore' }]);
    // Until the link is used everything is as it was.
    expect(await viewerBySession(runtime, before)).not.toBeNull();
    await setPasswordByLink(runtime, tokenIn(sent[0]), PASSWORD);
    expect(await viewerBySession(runtime, before)).toBeNull();
    await expect(enter(runtime, MENTOR, 'the one forgotten')).rejects.toThrow('do not match');
    await signInWhole(runtime, { email: MENTOR, ...PASSWORD }, { address: 'x', browser: null, agent: '' });
  });

  it.each([
    ['an e-mail that nobody has', 'nobody@staff.example'],
    ['somebody who never had a password', 'instructor@staff.example'],
  ])('is answered alike for %s, and no mail goes', async (_, email) => {
    await askForgotten(runtime, { email });
    await send();
    expect(sent).toEqual([]);
    expect(await runtime.db('forgotten_ask').select('*')).toEqual([]);
  });

  it('of an account that has ended sends nothing', async () => {
    await endStaff(runtime, lead, mentor.staffId, true);
    await askForgotten(runtime, { email: MENTOR });
    await send();
    expect(sent).toEqual([]);
  });

  it('asked for many times sends one mail in five minutes, and more than 60 a minute wait', async () => {
    for (let i = 0; i < 60; i += 1) await askForgotten(runtime, { email: MENTOR });
    await expect(askForgotten(runtime, { email: MENTOR })).rejects.toThrow('Too many try at once');
    await send();
    runtime.passTime(HOUR);
    await askForgotten(runtime, { email: MENTOR });
    await send();
    expect(sent).toHaveLength(1);
    runtime.setNow('2026-11-24T09:16:00Z');
    await askForgotten(runtime, { email: MENTOR });
    await send();
    expect(sent).toHaveLength(2);
    await expect(openLink(runtime, tokenIn(sent[0]))).rejects.toThrow('No such link');
    await openLink(runtime, tokenIn(sent[1]));
  });

  it('names an e-mail that is none', async () => {
    await expect(askForgotten(runtime, { email: 'nonsense' })).rejects.toMatchObject({
      errors: [{ field: 'email', message: 'is not an e-mail address' }],
    });
  });
});
