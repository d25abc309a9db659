import { buffer } from 'node:stream/consumers';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { openMailer } from '../contact/mailer';
import { sendDue, type Carriers } from '../contact/outbox';
import { sendDraft } from '../contact/write';
import { recalculate } from '../drift/recalculate';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import { pageOfDraft, writeToLearners } from './letter';
import { paramsOf } from './link';
import { READY_REPORTS, WHOLE_LEARNER } from './ready';

const PORT = 25_392;
let runtime: TestRuntime;
let inbox: Inbox;
let carriers: Carriers;
let mentor: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']);
  await recalculate(runtime);
  inbox = await openInbox(PORT);
  carriers = { mailer: openMailer(`smtp://127.0.0.1:${PORT}`), gateway: null };
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
});
afterEach(async () => {
  await inbox.close();
  await runtime.close();
});

const WHOLE = paramsOf(READY_REPORTS[WHOLE_LEARNER].definition, WHOLE_LEARNER);
const idOf = async (learner: string) => (await runtime.db('learner').where('external_id', learner).first('id'))!.id;

async function send(draft: number, acknowledged: string[] = []) {
  const view = await openDriftView(runtime, mentor);
  const text = { subject: 'Your term', body: 'Hello {{given_name}}', channel: 'preferred' };
  return sendDraft(runtime, view, draft, text, acknowledged);
}

describe('a report to its learners', () => {
  it('goes to each with their own page alone, is seen before, and is on record', async () => {
    const draft = await writeToLearners(runtime, mentor, { ...WHOLE, status: undefined });
    const file = await pageOfDraft(runtime, mentor, draft, String(await idOf('L1')));
    const pdf = (await buffer(file)).toString('latin1');
    // What staff call the report is not what its reader reads.
    expect(pdf).not.toContain('One learner whole');
    expect(pdf).toContain('(How you are doing)');
    // One person, one course of those that the writer sees.
    expect(pdf.match(/\/S \/H1\n/g)).toHaveLength(1);
    expect(pdf.match(/\/S \/H2\n/g)).toHaveLength(1);
    const result = await send(draft);
    // Petra has no address: she is named, and nothing is sent to her.
    expect(result).toMatchObject({ outcome: 'queued', queued: 1, stopped: [{ name: 'Petra Sandoval' }] });
    runtime.passTime(11_000);
    await sendDue(runtime, carriers);
    expect(inbox.mails).toMatchObject([{ to: 'l1@learner.example', subject: 'Your term', text: 'Hello Ines\n' }]);
    expect(inbox.mails[0].attachments).toEqual([{ name: 'how-you-are-doing.pdf', bytes: expect.any(Number) }]);
    const [message] = await runtime.db('message');
    expect(message).toMatchObject({ state: 'sent', learner_id: await idOf('L1'), channel: 'email' });
  });

  it('waits for the end of quiet hours, and names who was written to of late', async () => {
    runtime.setNow('2026-11-24T22:10:00Z');
    const draft = await writeToLearners(runtime, mentor, { ...WHOLE, learners: 'L1' });
    expect(await send(draft)).toMatchObject({ outcome: 'queued', held: 1 });
    const again = await writeToLearners(runtime, mentor, { ...WHOLE, learners: 'L1' });
    expect(await send(again)).toMatchObject({ outcome: 'contacted', names: ['Ines Marrow'] });
    runtime.passTime(11_000);
    await sendDue(runtime, carriers);
    expect(inbox.mails).toHaveLength(0);
    runtime.setNow('2026-11-25T08:01:00Z');
    await sendDue(runtime, carriers);
    expect(inbox.mails).toHaveLength(1);
  });

  it('is not sent once the learner is no longer the writer’s, or the writer has left', async () => {
    const draft = await writeToLearners(runtime, mentor, { ...WHOLE, learners: 'L1' });
    await send(draft);
    await runtime.db('staff_scope').where('staff_id', mentor.staffId).delete();
    runtime.passTime(11_000);
    await sendDue(runtime, carriers);
    expect(inbox.mails).toHaveLength(0);
    expect((await runtime.db('message'))[0]).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('no longer'),
    });
  });

  it('is never one for staff alone, and its pages are for its writer alone', async () => {
    await expect(writeToLearners(runtime, mentor, { ...WHOLE, for: 'staff' })).rejects.toThrow(InvalidInput);
    const draft = await writeToLearners(runtime, mentor, { ...WHOLE, learners: 'L1' });
    const lead = await viewerByEmail(runtime, 'lead@staff.example');
    await expect(pageOfDraft(runtime, lead, draft, String(await idOf('L1')))).rejects.toThrow(NotFound);
    await expect(pageOfDraft(runtime, mentor, draft, String(await idOf('L4')))).rejects.toThrow(NotFound);
    await expect(pageOfDraft(runtime, mentor, draft, 'x')).rejects.toThrow(NotFound);
  });
});
