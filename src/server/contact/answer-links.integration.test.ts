import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import type { DriftView } from '@/data/view';
import { dayFromDate } from '@/core/time/zone';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { offeredAnswer, takeAnswer } from './answer-links';
import { openMailer } from './mailer';
import { sendDue } from './outbox';
import { removeTemplate, saveTemplate } from './templates';
import { sendDraft, startDraft } from './write';

const PORT = 25_393;
let runtime: TestRuntime;
let inbox: Inbox;
let lead: Viewer;
let view: DriftView;
let template: number;
const TEXT = { name: 'Where are you', subject: 'How is it going?', body: 'Hello {{given_name}}', course: '' };
beforeEach(async () => {
  const opened = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']);
  runtime = { ...opened, settings: { ...opened.settings, url: 'https://ls.example' } };
  inbox = await openInbox(PORT);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  view = await openDriftView(runtime, lead);
  template = await saveTemplate(runtime, lead, null, { ...TEXT, answers: ['left', 'back', 'help'] });
});
afterEach(async () => {
  await inbox.close();
  await runtime.close();
});

const carriers = () => ({ mailer: openMailer(`smtp://127.0.0.1:${PORT}`), gateway: null });

/** Writes to a learner with the template; returns the token of the links in the mail. */
async function write(more: object = {}): Promise<{ token: string; text: string; learner: number }> {
  const { id: learner } = (await runtime.db('learner').where('external_id', 'L1').first('id'))!;
  const draft = await startDraft(runtime, view, [learner]);
  const values = { ...TEXT, template_id: String(template), follow_up_on: '2026-12-01', is_about: 'yes', ...more };
  const { outcome } = await sendDraft(runtime, view, draft, values as never, [String(learner)]);
  expect(outcome).toBe('queued');
  // Until then it may be taken back.
  runtime.passTime(60_000);
  await sendDue(runtime, carriers());
  const text = inbox.mails.at(-1)!.text ?? '';
  return { token: /\/answer\/([\w-]{32})\//.exec(text)?.[1] ?? '', text, learner };
}

const replies = () => runtime.db('reply').orderBy('id').select('subject', 'body', 'sender', 'message_id', 'kind');
const dueDays = () => runtime.db('follow_up').pluck('due_day');

describe('answers by a press', () => {
  it('stand as links under the mail that goes, in our order, and nowhere else', async () => {
    const { text, token } = await write();
    expect(text).toContain('Hello Ines');
    expect(text.match(/https:\S+\/answer\/\S+/g)).toEqual(
      ['back', 'help', 'left'].map((answer) => `https://ls.example/answer/${token}/${answer}`),
    );
    expect(text).toContain('Answer with one press, until Tue 8 Dec');
    expect(JSON.stringify(await runtime.db('message'))).not.toContain(token);
    expect(JSON.stringify(await runtime.db('answer_link'))).not.toContain(token);
  });

  it('are no answer before the press, however often they are opened', async () => {
    const { token } = await write();
    for (let times = 0; times < 3; times += 1)
      expect(await offeredAnswer(runtime, token, 'left')).toMatchObject({
        label: 'I have left the course',
        answered: null,
      });
    expect(await replies()).toEqual([]);
  });

  it('come into the conversation once, and move the follow-up', async () => {
    const { token } = await write();
    expect(await takeAnswer(runtime, token, 'back', '2026-12-03')).toBe('I am back by Thu 3 Dec.');
    expect(await replies()).toEqual([
      {
        subject: 'I am back by …',
        body: 'I am back by Thu 3 Dec.',
        sender: 'a link in the mail',
        message_id: expect.any(Number),
        kind: 'answer',
      },
    ]);
    expect(await dueDays()).toEqual([dayFromDate('2026-12-04')]);
    // Twice the same, or another after it: what was said stands.
    const again = await Promise.all([
      takeAnswer(runtime, token, 'back', '2026-12-09'),
      takeAnswer(runtime, token, 'left', ''),
    ]);
    expect(again).toEqual(['I am back by Thu 3 Dec.', 'I am back by Thu 3 Dec.']);
    expect(await offeredAnswer(runtime, token, 'help')).toMatchObject({ answered: 'I am back by Thu 3 Dec.' });
    expect([(await replies()).length, await dueDays()]).toEqual([1, [dayFromDate('2026-12-04')]]);
  });

  it('pressed twice at once are one', async () => {
    const { token } = await write();
    const both = await Promise.all([
      takeAnswer(runtime, token, 'left', ''),
      takeAnswer(runtime, token, 'help', 'the quiz'),
    ]);
    expect(new Set(both).size).toBe(1);
    expect(await replies()).toHaveLength(1);
  });

  it('withdraw nobody', async () => {
    const { token, learner } = await write();
    await takeAnswer(runtime, token, 'left', '');
    expect((await replies())[0].body).toContain('Nothing was changed by this');
    expect(await runtime.db('enrolment').where('learner_id', learner).pluck('status')).toEqual(['active', 'active']);
    expect(await dueDays()).toEqual([dayFromDate('2026-11-24')]);
  });

  it('want a day from today on, and words', async () => {
    const { token } = await write();
    for (const said of ['', 'soon', '2026-11-23', '2028-11-23', '<'.repeat(1000)])
      await expect(takeAnswer(runtime, token, 'back', said), said).rejects.toThrow(InvalidInput);
    await expect(takeAnswer(runtime, token, 'help', '   ')).rejects.toThrow(InvalidInput);
    expect(await replies()).toEqual([]);
    await takeAnswer(runtime, token, 'help', `<b>${'x'.repeat(600)}`);
    expect((await replies())[0].body.length).toBeLessThan(540);
  });

  it('end after 14 days, and are none for whoever guesses', async () => {
    const { token } = await write();
    for (const [other, answer] of [
      ['x'.repeat(32), 'left'],
      [token, 'call'],
      [token, 'constructor'],
      ['', 'left'],
    ])
      await expect(offeredAnswer(runtime, other, answer)).rejects.toThrow(NotFound);
    runtime.setNow('2026-12-08T09:11:00Z');
    await expect(takeAnswer(runtime, token, 'left', '')).rejects.toThrow(NotFound);
  });

  it('do not go without an address of the installation, nor where the template offers none', async () => {
    await saveTemplate(runtime, lead, template, TEXT);
    expect((await write()).text).not.toContain('/answer/');
    await saveTemplate(runtime, lead, template, { ...TEXT, answers: ['call'] });
    runtime = { ...runtime, settings: { ...runtime.settings, url: null } };
    expect((await write()).text).not.toContain('press');
  });

  it('are some of the four', async () => {
    for (const answers of [['who'], 'left', [['left']]])
      await expect(saveTemplate(runtime, lead, template, { ...TEXT, answers })).rejects.toThrow(InvalidInput);
    await removeTemplate(runtime, lead, template);
  });
});
