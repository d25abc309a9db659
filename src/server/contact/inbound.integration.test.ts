import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { composeAnswer, composeBounce } from '../../../stand-ins/mail/answers';
import type { Mail } from '../../../stand-ins/mail/inbox';
import { findLearner } from '@/data/people/learners';
import { repliesPage, unmatchedReplies } from '@/data/contact/replies';
import type { DriftView } from '@/data/view';
import { mayBringMail } from '../staff/bearers';
import { assignReply, takeMail } from './inbound';
import { explainPeople } from '../people/people';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openDriftView } from '../request/view';
import { sendDraft, startDraft } from './write';

let runtime: TestRuntime;
let view: DriftView;

beforeEach(async () => {
  runtime = await smallRuntime();
  view = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
});
afterEach(() => runtime.close());

const id = async (learner: string) => (await findLearner(runtime.db, view.viewer, learner))!;

/** A message that was sent, as it lies in the learner's inbox. */
async function sent(learner: string): Promise<Mail> {
  const draft = await startDraft(runtime, view, [await id(learner)]);
  await sendDraft(runtime, view, draft, { subject: 'How is it?', body: 'Hello {{given_name}}' }, [
    String(await id(learner)),
  ]);
  const [row] = await runtime.db('message').where('draft_id', draft);
  await runtime.db('message').where('id', row.id).update({ state: 'sent', sent_at: row.created_at });
  return {
    id: row.id,
    messageId: `<${row.message_id}>`,
    from: '"Hesper Vane" <lead@staff.example>',
    to: row.address,
    subject: row.subject,
    text: row.body,
    headers: {},
    attachments: [],
    at: '2026-11-24T09:10:00.000Z',
  };
}
const replies = async (of: DriftView = view) => (await repliesPage(runtime.db, of, { limit: 20, offset: 0 })).rows;
const plain = (headers: string[], text = 'Hello') => Buffer.from([...headers, '', text, ''].join('\r\n'));

describe('mail that comes in', () => {
  it('is matched to the message it answers, once however often it is delivered', async () => {
    const mail = await sent('L1');
    const source = await composeAnswer(mail, 'I was at sea.', false);
    expect(await takeMail(runtime, source)).toEqual({ kind: 'answer', known: false, matched: true });
    expect(await takeMail(runtime, source)).toEqual({ kind: 'answer', known: true, matched: true });
    expect(await replies()).toMatchObject([{ learner_id: 'L1', message_id: mail.id, sender: 'l1@learner.example' }]);
    const [person] = await explainPeople(runtime, await openDriftView(runtime, view.viewer), [await id('L1')], {
      wakeDays: 1,
      visits: 1,
      contacts: 1,
      status: 'all',
    });
    expect(person.contacts[0].says).toBe('You wrote today · answered');
  });

  it('is read as text, however it was written', async () => {
    const html = 'Content-Type: text/html; charset=utf-8';
    const written = '<style>p{color:red}</style><p>Back&nbsp;on Monday &amp; well.</p><p>Ines</p><img src="x">';
    await takeMail(runtime, plain(['From: l1@learner.example', 'Message-ID: <h@x>', html], written));
    expect(await replies()).toMatchObject([{ body: 'Back\u00a0on Monday & well.\n\nInes' }]);
  });

  it('from another address of theirs still belongs to the message it answers', async () => {
    const mail = await sent('L1');
    const source = plain([
      'From: home@elsewhere.example',
      'Message-ID: <a@x>',
      `References: <other@x> ${mail.messageId}`,
    ]);
    expect(await takeMail(runtime, source)).toMatchObject({ matched: true });
    expect((await replies())[0]).toMatchObject({ learner_id: 'L1', message_id: mail.id });
  });

  it('without a reference is matched by an address that is one learner’s alone', async () => {
    await takeMail(runtime, plain(['From: L2@Learner.example', 'Message-ID: <b@x>', 'Subject: Question']));
    expect(await replies()).toMatchObject([{ learner_id: 'L2', message_id: null }]);
    await bringIn(runtime, 'roster', 'learner_id,given_name,email,course\nL9,Twin,l2@learner.example,DRY\n');
    expect(await takeMail(runtime, plain(['From: l2@learner.example', 'Message-ID: <c@x>']))).toMatchObject({
      matched: false,
    });
  });

  it('that matches nobody is kept until a lead says whose it is', async () => {
    const source = await composeAnswer(await sent('L1'), 'Who am I?', true);
    expect(await takeMail(runtime, source)).toEqual({ kind: 'answer', known: false, matched: false });
    const [unmatched] = await unmatchedReplies(runtime.db, view.viewer);
    expect(unmatched).toMatchObject({ sender: 'somebody@elsewhere.example', learner_id: null });
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    expect(await unmatchedReplies(runtime.db, mentor)).toEqual([]);
    await expect(assignReply(runtime, mentor, unmatched.id, await id('L1'))).rejects.toThrow();
    await assignReply(runtime, view.viewer, unmatched.id, await id('L1'));
    expect(await unmatchedReplies(runtime.db, view.viewer)).toEqual([]);
    expect(await replies()).toMatchObject([{ learner_id: 'L1' }]);
    await expect(assignReply(runtime, view.viewer, unmatched.id, null)).rejects.toThrow('No such answer');
  });

  it('that is a bounce marks the message, and only the message it gives back', async () => {
    const [mail, other] = [await sent('L1'), await sent('L3')];
    expect(await takeMail(runtime, await composeBounce(mail))).toEqual({ kind: 'bounce', known: false, matched: true });
    const states = await runtime.db('message').select('id', 'state', 'error');
    expect(states.find((row) => row.id === mail.id)).toMatchObject({
      state: 'bounced',
      error: 'Could not be delivered: 5.1.1 550 5.1.1 no such mailbox',
    });
    expect(states.find((row) => row.id === other.id)).toMatchObject({ state: 'sent' });
  });

  it('that was written by a machine is no answer', async () => {
    const mail = await sent('L1');
    await takeMail(
      runtime,
      plain([
        'From: l1@learner.example',
        'Message-ID: <d@x>',
        `In-Reply-To: ${mail.messageId}`,
        'Auto-Submitted: auto-replied',
      ]),
    );
    expect(await replies()).toMatchObject([{ kind: 'automatic' }]);
    expect(await runtime.db('message').first()).toMatchObject({ state: 'sent' });
  });

  it('is seen by whoever sees the learner, and by nobody else', async () => {
    await takeMail(runtime, await composeAnswer(await sent('L3'), 'For Penhallow alone', false));
    expect(
      await replies(await openDriftView(runtime, await viewerByEmail(runtime, 'norrick@partner.example'))),
    ).toEqual([]);
    expect(await replies(await openDriftView(runtime, await viewerByEmail(runtime, 'one@staff.example')))).toHaveLength(
      1,
    );
  });

  it('that is none is refused', async () => {
    await expect(takeMail(runtime, Buffer.from('hello'))).rejects.toThrow('no mail with a From header');
    await expect(takeMail(runtime, Buffer.alloc(6_000_000, 'x'))).rejects.toThrow('larger than 5 MB');
    expect(await runtime.db('reply')).toEqual([]);
  });

  it('needs a token that is good for it', () => {
    const settings = { ...runtime.settings, inboundToken: 'inbound-token-0001', apiToken: 'api-token-00000001' };
    const may = (token: string) => mayBringMail({ ...runtime, settings }, token);
    expect(['inbound-token-0001', 'api-token-00000001', '', 'wrong'].map(may)).toEqual([true, true, false, false]);
    expect(mayBringMail(runtime, '')).toBe(false);
  });
});
