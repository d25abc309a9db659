import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { buffer } from 'node:stream/consumers';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Receiver } from '@/core/contact/recipient';
import { triedWithin } from '@/data/drift/tried';
import type { Viewer } from '@/data/scope';
import { DAY, dayOf } from '@/core/time/zone';
import { openInbox, type Inbox } from '../../../stand-ins/mail/inbox';
import { recalculate } from '../drift/recalculate';
import { pageOfDraft, writeToLearners } from '../reports/letter';
import { paramsOf } from '../reports/link';
import { READY_REPORTS, WHOLE_LEARNER } from '../reports/ready';
import { InvalidInput, NotFound } from '../request/input';
import { openDriftView } from '../request/view';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { takeMail } from './inbound';
import { openMailer } from './mailer';
import { messages } from './messages-list';
import { sendDue, type Carriers } from './outbox';
import { forgetPages, openPageLink, pageLink, revokeLink } from './page-links';
import { UNDO_TIME, chooseReceivers, leaveOut, openDraft, sayOnPage, sendDraft, startDraft, undoSend } from './write';
import { timelineOf } from '../people/timeline';

const PORT = 25_397;
const CONTACTS = `learner_id,name,relation,email,phone,may_receive
L1,Rhona Marrow,family,rhona@home.example,,yes
L1,Odran Kell,employer,odran@work.example,,no
L1,Ines again,other,L1@LEARNER.example,,yes
L2,Sable Works,employer,office@sable.example,,yes
`;
const TEXT = {
  subject: 'Hello',
  body: 'Hello {{given_name}}',
  other_subject: 'About {{name}}',
  other_body: 'Dear {{receiver}}, {{name}} is in {{course}}.',
};
const WHOLE = paramsOf(READY_REPORTS[WHOLE_LEARNER].definition, WHOLE_LEARNER);

let runtime: TestRuntime;
let lead: Viewer;
let inbox: Inbox | null = null;
let carriers: Carriers;
beforeEach(async () => {
  runtime = await smallRuntime(['2026-11-20T10:00:00Z,L1,DRY,D1,opened']);
  await bringIn(runtime, 'contacts', CONTACTS);
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(async () => {
  await inbox?.close();
  inbox = null;
  await runtime.close();
});

const idOf = async (learner: string) => (await runtime.db('learner').where('external_id', learner).first('id'))!.id;
const viewOf = () => openDriftView(runtime, lead);

async function draftTo(learners: string[], receivers: Receiver[]): Promise<number> {
  const draft = await startDraft(runtime, await viewOf(), await Promise.all(learners.map(idOf)));
  await chooseReceivers(runtime, await viewOf(), draft, receivers);
  return draft;
}

async function recipients(draft: number) {
  return (await openDraft(runtime, await viewOf(), draft)).recipients;
}

async function go(draft: number, values: object = TEXT, acknowledged: string[] = []) {
  return sendDraft(runtime, await viewOf(), draft, { ...values }, acknowledged);
}

async function deliver(largest?: number): Promise<void> {
  inbox ??= await openInbox(PORT, largest);
  carriers = { mailer: openMailer(`smtp://127.0.0.1:${PORT}`), gateway: null };
  runtime.passTime(UNDO_TIME);
  await sendDue(runtime, carriers);
}

describe('who receives a message about a learner', () => {
  it('is whoever may, each once however they share an address', async () => {
    const draft = await draftTo(['L1', 'L2', 'L3'], ['learner', 'family', 'employer', 'other']);
    const all = (await recipients(draft)).map(({ to, receiver }) => `${receiver}: ${to}`);
    // Odran did not agree to it, and the third contact has the learner's own address.
    expect(all).toEqual(expect.arrayContaining(['family: Rhona Marrow (family)', 'employer: Sable Works (employer)']));
    expect(all).toHaveLength(5);
    const { possible } = await openDraft(runtime, await viewOf(), draft);
    expect(possible).toEqual({ learner: 3, crew: 3, family: 1, employer: 1, other: 1, organisation: 1 });
  });

  it('is a partner’s coordinator too, as long as they have an account', async () => {
    const organisation = (await runtime.db('organisation').insert({ name: 'Carrow Tidal' }).returning('id'))[0].id;
    await runtime.db('learner').where('external_id', 'L1').update({ organisation_id: organisation });
    const [staff] = await runtime
      .db('staff')
      .insert({
        external_id: 'C9',
        given_name: 'Bede',
        family_name: 'Carne',
        email: 'bede@carrow.example',
        role: 'coordinator',
      })
      .returning('id');
    await runtime.db('staff_scope').insert({ staff_id: staff.id, kind: 'organisation', organisation_id: organisation });
    const draft = await draftTo(['L1', 'L2'], ['organisation']);
    expect((await recipients(draft)).map(({ to }) => to)).toEqual(['Bede Carne (the organisation’s contact)']);
    expect(await go(draft)).toMatchObject({ outcome: 'queued', queued: 1 });
    // They leave before it goes.
    await runtime.db('staff').where('id', staff.id).update({ ended_at: 1 });
    await deliver();
    expect(inbox!.mails).toEqual([]);
    expect(await runtime.db('message').first()).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('may receive nothing'),
    });
  });

  it('is the staff around them as well, who see them and are still there when it goes', async () => {
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const view = await openDriftView(runtime, mentor);
    const draft = await startDraft(runtime, view, [await idOf('L1')], { receivers: 'crew' });
    const to = async () => (await openDraft(runtime, view, draft)).recipients.map((one) => one.to);
    // Not oneself, nor a lead, nor a partner's contact.
    expect(await to()).toEqual(['Jory Kestle (instructor)']);
    await chooseReceivers(runtime, view, draft, ['crew', 'family']);
    expect(await to()).toEqual(['Jory Kestle (instructor)', 'Rhona Marrow (family)']);
    expect(await sendDraft(runtime, view, draft, { ...TEXT }, [])).toMatchObject({ queued: 2 });
    // Who was told what stands in the story, and nobody was in touch with the learner by it.
    const whole = { kinds: ['contact' as const], before: null };
    const { entries } = await timelineOf(runtime, await viewOf(), await idOf('L1'), whole);
    expect(JSON.stringify(entries)).toContain('wrote to Jory Kestle (instructor)');
    const within = { days: 28, day: dayOf(runtime.clock.now(), runtime.zone), zone: runtime.zone };
    expect(await triedWithin(runtime.db, await viewOf(), within)).toEqual(new Map());
    await runtime.db('staff').where('email', 'instructor@staff.example').update({ ended_at: 1 });
    await deliver();
    expect(inbox!.mails.map((mail) => mail.to)).toEqual(['rhona@home.example']);
    expect(await runtime.db('message').where('receiver', 'crew').first()).toMatchObject({ state: 'failed' });
  });

  it('is no staff where a page of a report goes with it, nor where a partner writes', async () => {
    const partner = await viewerByEmail(runtime, 'norrick@partner.example');
    const view = await openDriftView(runtime, partner);
    const draft = await startDraft(runtime, view, [await idOf('L1')], { receivers: 'crew' });
    expect((await openDraft(runtime, view, draft)).recipients).toEqual([]);
    const letter = await startDraft(runtime, await viewOf(), [await idOf('L1')], { receivers: 'crew' }, '{}');
    expect((await openDraft(runtime, await viewOf(), letter)).possible.crew).toBeUndefined();
  });

  it('gets a mail of their own, in words that are not to the learner', async () => {
    const draft = await draftTo(['L1'], ['learner', 'family']);
    expect(await go(draft)).toMatchObject({ outcome: 'queued', queued: 2 });
    await deliver();
    expect(inbox!.mails.map(({ to, subject, text }) => [to, subject, text.trim()])).toEqual([
      ['l1@learner.example', 'Hello', 'Hello Ines'],
      ['rhona@home.example', 'About Ines Marrow', expect.stringContaining('Dear Rhona Marrow, Ines Marrow is in')],
    ]);
  });

  it('needs a text of their own, and only where one of them is chosen', async () => {
    const family = await draftTo(['L1'], ['family']);
    await expect(go(family, { subject: 'x', body: 'y' })).rejects.toThrow('other_subject');
    expect(await go(family, { other_subject: 'x', other_body: 'y' })).toMatchObject({ outcome: 'queued', queued: 1 });
    const learner = await draftTo(['L2'], ['learner']);
    expect(await go(learner, { subject: 'x', body: 'y', other_body: '{{nothing}}' })).toMatchObject({ queued: 1 });
  });

  it('is somebody: none at all, a word that is none, and another’s draft are refused', async () => {
    const draft = await draftTo(['L1'], ['learner']);
    const view = await viewOf();
    await expect(chooseReceivers(runtime, view, draft, [])).rejects.toThrow(InvalidInput);
    await expect(chooseReceivers(runtime, view, draft, ['learner', '__proto__'])).rejects.toThrow(InvalidInput);
    const other = await openDriftView(runtime, await viewerByEmail(runtime, 'mentor@staff.example'));
    await expect(chooseReceivers(runtime, other, draft, ['family'])).rejects.toThrow(NotFound);
    await expect(leaveOut(runtime, view, draft, "1' OR 1")).rejects.toThrow(NotFound);
  });

  it('can be left out one by one, and undoing keeps it so', async () => {
    const draft = await draftTo(['L1'], ['learner', 'family']);
    const [self] = await recipients(draft);
    await leaveOut(runtime, await viewOf(), draft, self.key);
    expect((await recipients(draft)).map(({ receiver }) => receiver)).toEqual(['family']);
    await go(draft);
    expect(await undoSend(runtime, await viewOf(), draft)).toBe(true);
    expect((await recipients(draft)).map(({ receiver }) => receiver)).toEqual(['family']);
    expect(await runtime.db('message')).toEqual([]);
  });

  it('is not written to who withdrew their consent after it was written', async () => {
    const draft = await draftTo(['L1'], ['family']);
    await go(draft);
    await runtime.db('learner_contact').where('name', 'Rhona Marrow').update({ may_receive: 0 });
    await deliver();
    expect(inbox!.mails).toEqual([]);
    expect(await runtime.db('message').first()).toMatchObject({ state: 'failed' });
  });

  it('is named when they were written to of late, apart from the learner', async () => {
    await go(await draftTo(['L1'], ['family']));
    // The learner was told nothing by that.
    expect(await go(await draftTo(['L1'], ['learner']))).toMatchObject({ outcome: 'queued' });
    const again = await draftTo(['L1'], ['family']);
    expect(await go(again)).toEqual({ outcome: 'contacted', names: ['Rhona Marrow (family)'] });
    const [{ key }] = await recipients(again);
    expect(await go(again, TEXT, [key])).toMatchObject({ outcome: 'queued', queued: 1 });
  });
});

describe('what went to somebody beside a learner', () => {
  it('moves nobody on the Watch, and neither does their answer', async () => {
    const draft = await draftTo(['L1'], ['family']);
    await go(draft);
    await deliver();
    const view = await viewOf();
    const within = { days: 28, day: dayOf(runtime.clock.now(), runtime.zone), zone: runtime.zone };
    expect(await triedWithin(runtime.db, view, within)).toEqual(new Map());
    await go(await draftTo(['L1'], ['learner']));
    runtime.passTime(60_000);
    const id = (await runtime.db('message').where('receiver', 'family').first('message_id'))!.message_id;
    const mail = `From: rhona@home.example\r\nSubject: Re\r\nMessage-ID: <a@b.example>\r\nIn-Reply-To: <${id}>\r\n\r\nShe is well.`;
    expect(await takeMail(runtime, Buffer.from(mail))).toMatchObject({ kind: 'answer', matched: true });
    runtime.passTime(60_000);
    const tried = await triedWithin(runtime.db, await viewOf(), within);
    expect(tried.get(await idOf('L1'))).toMatchObject({ answered: false });
  });

  it('stands in the story and in the list of messages, with whom', async () => {
    await go(await draftTo(['L1'], ['family']));
    const { entries } = await timelineOf(runtime, await viewOf(), await idOf('L1'), {
      kinds: ['contact'],
      before: null,
    });
    expect(entries).toMatchObject([{ contact: { says: expect.stringContaining('wrote to Rhona Marrow (family)') } }]);
    const { rows } = await messages(runtime, lead, {});
    expect(rows).toMatchObject([{ learner_id: 'L1', receiver_name: 'Rhona Marrow (family)' }]);
    const hidden = await messages(runtime, { ...lead, standInKey: 'k' }, {});
    expect(JSON.stringify(hidden.rows)).not.toContain('Rhona');
  });
});

async function letter(learners: string, receivers: Receiver[]): Promise<number> {
  const draft = await writeToLearners(runtime, lead, { ...WHOLE, learners });
  await chooseReceivers(runtime, await viewOf(), draft, receivers);
  return draft;
}

const pdfOf = async (draft: number, key: string) =>
  (await buffer(await pageOfDraft(runtime, lead, draft, key))).toString('latin1');

describe('a page that goes with it', () => {
  it('is called by who reads it, and carries what the writer says, to all or to one', async () => {
    const draft = await letter('L1,L2', ['learner', 'family']);
    const all = await recipients(draft);
    const family = all.find(({ receiver }) => receiver === 'family')!;
    expect(await pdfOf(draft, family.key)).toContain('(How Ines Marrow is doing)');
    expect(await pdfOf(draft, all[0].key)).toContain('(How you are doing)');
    await sayOnPage(runtime, await viewOf(), draft, await idOf('L1'), 'Well done, {{given_name}} <b>&amp;</b>');
    const sentence = { ...TEXT, sentence: 'To everybody' };
    await go(draft, sentence);
    const stored = await runtime.db('message').orderBy('id').select('learner_id', 'receiver', 'sentence');
    const own = await idOf('L1');
    for (const message of stored)
      expect(message.sentence).toBe(message.learner_id === own ? 'Well done, Ines <b>&amp;</b>' : 'To everybody');
    expect(stored).toHaveLength(3);
  });

  it('is stopped where what is said on it has no value, and refuses a field that is none', async () => {
    const draft = await letter('L1', ['learner']);
    const view = await viewOf();
    await expect(sayOnPage(runtime, view, draft, await idOf('L1'), '{{surname}}')).rejects.toThrow(InvalidInput);
    await expect(sayOnPage(runtime, view, draft, await idOf('L1'), 'x'.repeat(2001))).rejects.toThrow(InvalidInput);
    await expect(go(draft, { ...TEXT, sentence: '{{' })).rejects.toThrow('sentence');
    const result = await go(draft, { ...TEXT, sentence: 'Next: {{overdue_list}}' });
    expect(result).toMatchObject({ outcome: 'nobody', stopped: [{ why: expect.stringContaining('on the page') }] });
  });
});

describe('a page that a mail server found too large', () => {
  const withUrl = () => Object.assign(runtime.settings, { url: 'https://shore.example' });
  const folder = () => join(runtime.settings.dataDir, 'pages');

  async function sentAsLink(): Promise<string> {
    withUrl();
    await go(await letter('L1', ['learner']));
    await deliver(3000);
    // Refused for its size, it goes again at once with an address in its place.
    await sendDue(runtime, carriers);
    const [mail] = inbox!.mails;
    expect(mail).toMatchObject({ to: 'l1@learner.example', attachments: [] });
    return /https:\/\/shore\.example\/page\/([\w-]{32})/.exec(mail.text)![1];
  }

  it('goes as an address that is good for 14 days, and counts how often it was opened', async () => {
    const token = await sentAsLink();
    expect(await runtime.db('message').first()).toMatchObject({ state: 'sent', as_link: 1 });
    expect(JSON.stringify(await runtime.db('page_link'))).not.toContain(token);
    // That it is there counts nothing: mail servers look at every address.
    await pageLink(runtime, token);
    const { file, size } = await openPageLink(runtime, token);
    const bytes = await buffer(file);
    expect(bytes).toHaveLength(size);
    expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
    await openPageLink(runtime, token).then(({ file }) => file.resume());
    expect((await messages(runtime, lead, {})).rows).toMatchObject([{ link_opened: 2, link_revoked_at: null }]);
    for (const wrong of ['', 'x', token.slice(1), `${token}a`, '../1'])
      await expect(pageLink(runtime, wrong)).rejects.toThrow(NotFound);
    runtime.setNow(new Date(runtime.clock.now() + 14 * DAY).toISOString());
    await expect(openPageLink(runtime, token)).rejects.toThrow(NotFound);
    await forgetPages(runtime);
    expect(readdirSync(folder())).toEqual([]);
  });

  it('can be revoked by whoever may read the message, and is gone then', async () => {
    const token = await sentAsLink();
    const { id } = (await runtime.db('message').first('id'))!;
    const nobody: Viewer = { ...lead, staffId: 99, all: false, role: 'mentor' };
    await expect(revokeLink(runtime, nobody, id)).rejects.toThrow(NotFound);
    await revokeLink(runtime, lead, id);
    await expect(pageLink(runtime, token)).rejects.toThrow(NotFound);
    await expect(revokeLink(runtime, lead, id)).rejects.toThrow(NotFound);
    expect(readdirSync(folder())).toEqual([]);
  });

  it('is failed with a reason where nobody said at which address Lee Shore is found', async () => {
    await go(await letter('L1', ['learner']));
    await deliver(3000);
    expect(await runtime.db('message').first()).toMatchObject({
      state: 'failed',
      error: expect.stringContaining('LEESHORE_URL'),
    });
    expect(existsSync(folder())).toBe(false);
  });
});
