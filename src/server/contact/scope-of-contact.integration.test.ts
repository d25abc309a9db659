/** Contacts, notes, promises, answers, changes: what each role sees of them, and what they may do. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dayOf } from '@/core/time/zone';
import { TIMELINE_KINDS } from '@/core/contact/timeline';
import { otherContacts } from '@/data/people/contact-details';
import { contactsOf } from '@/data/contact/contacts';
import { outboxPage } from '@/data/contact/messages';
import { colleaguesOf, countDue, findFollowUps } from '@/data/contact/follow-ups';
import { findNotes } from '@/data/contact/notes';
import { findAudit } from '@/data/audit';
import { unmatchedReplies, repliesPage } from '@/data/contact/replies';
import { missingFromLastFile } from '@/data/people/roster';
import { checkClaim } from '../access/claim';
import { saveNote, logCall } from './contact';
import { closeFollowUp, handOver, moveFollowUp, promise } from './follow-ups';
import { find } from '../people/find';
import { takeMail } from './inbound';
import { mergeLearners } from '../people/merging';
import { saveOtherContact } from '../people/other-contacts';
import { changeLearner, endEnrolments, enrol, enterLearner, moveGroup } from '../people/roster';
import { enterStaff } from '../staff/staff-accounts';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { timelineOf } from '../people/timeline';
import { openDriftView } from '../request/view';
import { sendDraft, settleMessage, startDraft } from './write';

let runtime: TestRuntime;
/** The database's ids, by the source's. */
let ids: Record<string, number>;

const EVERYBODY = ['L1', 'L2', 'L3', 'L4', 'L5'];
const open = async (email: string) => openDriftView(runtime, await viewerByEmail(runtime, email));

beforeAll(async () => {
  runtime = await smallRuntime();
  await bringIn(
    runtime,
    'access-log',
    logOf(EVERYBODY.slice(0, 3).map((id) => `2026-11-20T10:00:00Z,${id},${id === 'L3' ? 'NET' : 'DRY'},,opened`)),
  );
  const view = await open('lead@staff.example');
  const rows: { id: number; external_id: string }[] = await runtime.db('learner').select('id', 'external_id');
  ids = Object.fromEntries(rows.map((row) => [row.external_id, row.id]));
  for (const id of EVERYBODY) {
    await saveNote(runtime, view.viewer, ids[id], { body: `about ${id}` });
    await logCall(runtime, view, ids[id], { outcome: 'spoke', remark: `with ${id}`, next: '2026-11-24' });
    await saveOtherContact(runtime, view.viewer, ids[id], null, { name: `Kin of ${id}`, relation: 'family' });
  }
  for (const id of ['L1', 'L2', 'L3']) {
    const draft = await startDraft(runtime, view, [ids[id]]);
    await sendDraft(runtime, view, draft, { subject: `To ${id}`, body: 'Hello' }, [String(ids[id])]);
    const [{ message_id }] = await runtime.db('message').where('draft_id', draft);
    const mail = `From: ${id}@learner.example\r\nMessage-ID: <${id}@x>\r\nIn-Reply-To: <${message_id}>\r\n\r\nfrom ${id}\r\n`;
    await takeMail(runtime, Buffer.from(mail));
  }
  await takeMail(runtime, Buffer.from('From: nobody@elsewhere.example\r\nMessage-ID: <n@x>\r\n\r\nHello\r\n'));
});
afterAll(() => runtime.close());

/** Whom each sees; `staff` reads staff notes. */
const ROLES: { email: string; sees: string[]; staff: boolean }[] = [
  { email: 'lead@staff.example', sees: EVERYBODY, staff: true },
  { email: 'mentor@staff.example', sees: ['L1', 'L4', 'L5'], staff: true },
  { email: 'instructor@staff.example', sees: ['L1', 'L2', 'L4', 'L5'], staff: true },
  { email: 'norrick@partner.example', sees: ['L1', 'L5'], staff: false },
  { email: 'one@staff.example', sees: ['L3'], staff: true },
];

describe.each(ROLES)('$email', ({ email, sees, staff }) => {
  it('reads contacts, answers, promises, other contacts and changes of their own learners alone', async () => {
    const view = await open(email);
    const { db } = runtime;
    const of = (texts: string[]) => [...new Set(texts.map((text) => /L\d/.exec(text)?.[0] ?? text))].sort();
    const everyId = Object.values(ids);
    const contacts = await contactsOf(db, view.viewer, everyId, { each: 5, until: Infinity });
    // That there was a contact, when and by whom is for everybody who sees the learner; what was said is not.
    const known = Object.fromEntries(Object.entries(ids).map(([id, number]) => [number, id]));
    expect([...new Set(contacts.map((row) => known[row.learner_id]))].sort()).toEqual(sees);
    expect(of(contacts.map((row) => row.body + row.subject).filter(Boolean))).toEqual(staff ? sees : []);
    if (!staff) expect(contacts.every((row) => row.outcome === null && row.answered_at === null)).toBe(true);
    const messages = await outboxPage(db, view, null, { limit: 50 });
    expect(messages.total).toBe(messages.rows.length);
    expect(of(messages.rows.map((row) => row.subject))).toEqual(
      staff ? sees.filter((id) => ['L1', 'L2', 'L3'].includes(id)) : [],
    );
    const { rows: replies, total } = await repliesPage(db, view, { limit: 50, offset: 0 });
    expect(of(replies.map((row) => row.body))).toEqual(
      staff ? sees.filter((id) => ['L1', 'L2', 'L3'].includes(id)) : [],
    );
    expect(total).toBe(replies.length);
    expect((await unmatchedReplies(db, view.viewer)).length).toBe(email.startsWith('lead') ? 1 : 0);
    const followUps = await findFollowUps(db, view, { state: 'any', limit: 50 });
    expect(of(followUps.map((row) => row.reason))).toEqual(staff ? sees : []);
    const notes = await findNotes(db, view, { limit: 50 });
    expect(of(notes.rows.map((row) => row.body))).toEqual(staff ? sees : []);
    expect(notes.total).toBe(notes.rows.length);
    const audit = await findAudit(db, view.viewer, { limit: 200 });
    const whose = audit.rows.flatMap((row) => (row.learner_id === null ? [] : [row.learner_id]));
    expect([...new Set(whose)].sort()).toEqual(sees);
    expect(audit.total).toBe(audit.rows.length);
    for (const id of EVERYBODY) {
      expect((await otherContacts(db, view.viewer, ids[id])).length).toBe(sees.includes(id) ? 1 : 0);
      const { entries } = await timelineOf(runtime, view, ids[id], { kinds: [...TIMELINE_KINDS], before: null });
      if (!sees.includes(id)) expect(entries).toEqual([]);
    }
  });

  it('finds nobody else by search, and cannot act on anybody else', async () => {
    const view = await open(email);
    for (const id of EVERYBODY) {
      const found = await find(runtime, view, id);
      expect(found.learners.map((one) => one.learnerId)).toEqual(sees.includes(id) ? [id] : []);
      if (sees.includes(id)) continue;
      await expect(saveNote(runtime, view.viewer, ids[id], { body: 'x' })).rejects.toThrow('No such learner');
      await expect(logCall(runtime, view, ids[id], { outcome: 'spoke' })).rejects.toThrow('No such learner');
      await expect(promise(runtime, view, [ids[id]], { due: '2026-11-30', reason: 'x' })).rejects.toThrow('Nobody');
      await expect(startDraft(runtime, view, [ids[id]])).rejects.toThrow('Nobody');
      await expect(changeLearner(runtime, view.viewer, ids[id], { phone: '1' })).rejects.toThrow();
      const claim = await checkClaim(runtime, view, ids[id], { from: '2026-11-01', to: '2026-11-24' });
      expect([claim.visits, claim.items, claim.handIns]).toEqual([[], [], []]);
      const [followUp] = await runtime.db('follow_up').where('learner_id', ids[id]);
      await expect(closeFollowUp(runtime, view.viewer, followUp.id, { outcome: 'agreed' })).rejects.toThrow('No such');
      await expect(moveFollowUp(runtime, view.viewer, followUp.id, { due: '2026-12-01' })).rejects.toThrow('No such');
    }
  });

  it('changes the programme only as a lead', async () => {
    const { viewer } = await open(email);
    if (email.startsWith('lead')) return expect((await missingFromLastFile(runtime.db, viewer)).file).not.toBeNull();
    const [enrolment] = await runtime.db('enrolment').where('learner_id', ids[sees[0]]);
    const before = await Promise.all(['learner', 'enrolment', 'staff', 'merge'].map((table) => runtime.db(table)));
    const attempts: Promise<unknown>[] = [
      enterLearner(runtime, viewer, { learner_id: 'X', given_name: 'X', course: 'DRY' }),
      enrol(runtime, viewer, ids[sees[0]], { course: 'NET' }),
      moveGroup(runtime, viewer, enrolment.id, 'Z'),
      endEnrolments(runtime, viewer, [enrolment.id], { status: 'withdrawn' }),
      enterStaff(runtime, viewer, { given_name: 'X', email: 'x@staff.example', role: 'lead' }),
      mergeLearners(runtime, viewer, ids.L1, ids.L3),
    ];
    for (const attempt of attempts) await expect(attempt).rejects.toThrow();
    expect(await Promise.all(['learner', 'enrolment', 'staff', 'merge'].map((table) => runtime.db(table)))).toEqual(
      before,
    );
  });
});

describe('a partner’s contact', () => {
  it('keeps promises, calls and messages of their own, and touches nobody else’s', async () => {
    const view = await open('norrick@partner.example');
    const { viewer } = view;
    const [theirs] = await runtime.db('follow_up').where('learner_id', ids.L1);
    await expect(closeFollowUp(runtime, viewer, theirs.id, { outcome: 'agreed' })).rejects.toThrow('No such');
    await expect(moveFollowUp(runtime, viewer, theirs.id, { due: '2026-12-01' })).rejects.toThrow('No such');
    await expect(handOver(runtime, viewer, theirs.id, viewer.staffId)).rejects.toThrow('No such');
    const [message] = await runtime.db('message').where('learner_id', ids.L1);
    await runtime.db('message').where('id', message.id).update({ state: 'unsure' });
    await expect(settleMessage(runtime, view, message.id, 'again')).rejects.toThrow('No such');
    await runtime.db('message').where('id', message.id).update({ state: message.state });
    const [own] = await promise(runtime, view, [ids.L1], { due: '2026-11-30', reason: 'ask L1' });
    await logCall(runtime, view, ids.L1, { outcome: 'spoke', remark: 'my own words on L1' });
    const seen = await contactsOf(runtime.db, viewer, [ids.L1], { each: 5, until: Infinity });
    expect(seen.map((row) => row.body).filter(Boolean)).toEqual(['my own words on L1']);
    expect((await findFollowUps(runtime.db, view, { state: 'open', limit: 9 })).map((row) => row.reason)).toEqual([
      'ask L1',
    ]);
    await closeFollowUp(runtime, viewer, own, { outcome: 'agreed' });
  });
});

describe('colleagues', () => {
  it('are those who see the learner too, and nobody else', async () => {
    const { viewer } = await open('lead@staff.example');
    const names = async (id: string) =>
      (await colleaguesOf(runtime.db, viewer, [ids[id]])).map((one) => one.name).sort();
    expect(await names('L1')).toEqual(['Jory Kestle', 'Mair Tolland']);
    expect(await names('L3')).toEqual(['Aldo Finch']);
    expect(await names('L2')).toEqual(['Jory Kestle']);
  });

  it('have a count of what of their own is due', async () => {
    const today = dayOf(runtime.clock.now(), runtime.zone);
    expect(await countDue(runtime.db, (await open('lead@staff.example')).viewer, today)).toBe(5);
    expect(await countDue(runtime.db, (await open('mentor@staff.example')).viewer, today)).toBe(0);
    // Whoever is out of sight is on no list of theirs, and in no count.
    const { viewer } = await open('lead@staff.example');
    const blind = { ...viewer, all: false, organisations: [], courses: [], groups: [], learners: [] };
    expect(await countDue(runtime.db, blind, today)).toBe(0);
  });
});
