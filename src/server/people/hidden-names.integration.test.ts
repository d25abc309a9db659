import { text } from 'node:stream/consumers';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { dayOf } from '@/core/time/zone';
import { otherContacts } from '@/data/people/contact-details';
import { findAudit } from '@/data/audit';
import { crewOf, enrolmentsOf } from '@/data/people/enrolments';
import { findFollowUps } from '@/data/contact/follow-ups';
import { pastRuns } from '@/data/imports/import-runs';
import { findLearner } from '@/data/people/learners';
import { outboxPage } from '@/data/contact/messages';
import { findNotes } from '@/data/contact/notes';
import { repliesPage } from '@/data/contact/replies';
import { missingFromLastFile } from '@/data/people/roster';
import { answersInView } from '@/data/grades/responses';
import type { Viewer } from '@/data/scope';
import { listSetAside } from '@/data/drift/set-aside';
import { listStaff } from '@/data/staff/staff-accounts';
import { staffByEmail, viewerOf } from '@/data/staff/staff';
import { TIMELINE_KINDS } from '@/core/contact/timeline';
import { saveNote, logCall } from '../contact/contact';
import { setNamesHidden } from './hidden-names';
import { givePassword } from '../staff/staff-accounts';
import { viewerBySession } from '../staff/sessions';
import { listFile } from '../request/list';
import { find } from './find';
import { takeMail } from '../contact/inbound';
import { learnerDetail } from './learner-detail';
import { LEARNERS, learnerList } from './learner-list';
import { learnerExtras, learnerPage } from './learner-page';
import { setAside } from '../drift/own-watch';
import { saveOtherContact } from './other-contacts';
import { saveView, savedViews } from './saved-views';
import { planningChoices } from '../sessions/planning-form';
import { enter, SMALL, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { timelineOf } from './timeline';
import { openDriftView } from '../request/view';
import { watchNames, watchPage } from '../drift/watch';
import { openDraft, sendDraft, startDraft } from '../contact/write';

/** Everything by which somebody of the little institution could be known. */
const REAL = [
  ...new Set(
    [...SMALL.roster.split('\n').slice(1), ...SMALL.staff.split('\n').slice(1)]
      .flatMap((line) => line.split(',').slice(0, 5))
      .concat('Secret', '01632 960222', 'l1@learner.example')
      .filter(
        (cell) => cell.length > 1 && !['lead', 'mentor', 'instructor', 'coordinator', 'DRY', 'NET'].includes(cell),
      ),
  ),
];

let runtime: TestRuntime;
let plain: Viewer;
let namesHidden: Viewer;

beforeEach(async () => {
  runtime = await smallRuntime();
  plain = await viewerByEmail(runtime, 'lead@staff.example');
  namesHidden = await viewerOf(runtime.db, (await staffByEmail(runtime.db, 'lead@staff.example'))!, true);
  const view = await openDriftView(runtime, plain);
  await bringIn(
    runtime,
    'access-log',
    logOf(['2026-11-20T10:00:00Z,L1,DRY,D1,opened', '2026-11-21T10:00:00Z,L4,DRY,D1,opened']),
  );
  const learner = (await findLearner(runtime.db, plain, 'L1'))!;
  await saveNote(runtime, plain, learner, { body: 'Secret: Ines Marrow is ill' });
  await logCall(runtime, view, learner, { outcome: 'left_message', remark: 'Secret with Halima', next: '2026-11-26' });
  await saveOtherContact(runtime, plain, learner, null, {
    name: 'Secret Friend',
    relation: 'family',
    phone: '01632 960222',
  });
  const draft = await startDraft(runtime, view, [learner]);
  await sendDraft(runtime, view, draft, { subject: 'Secret {{given_name}}', body: 'Hello {{given_name}}' }, [
    String(learner),
  ]);
  const [{ message_id }] = await runtime.db('message');
  await takeMail(
    runtime,
    Buffer.from(`From: l1@learner.example\r\nMessage-ID: <a@x>\r\nIn-Reply-To: <${message_id}>\r\n\r\nSecret\r\n`),
  );
  const answers = [
    ['L1', 'q1', 'Ines Marrow'],
    ['L4', 'q1', 'Secret'],
    ['L2', 'q1', 'chisel'],
    ...['L1', 'L2', 'L4'].map((id) => [id, 'q2', 'B']),
    ['L5', 'q2', ''],
  ].map(([id, question, answer]) => `${id},DRY,D2,1,${question},${answer},chisel,0,1,2026-10-12T10:00:00Z\n`);
  await bringIn(
    runtime,
    'responses',
    `learner_id,course,item_id,attempt,question_id,answer,right_answer,score,points,answered_at\n${answers.join('')}`,
  );
  await setAside(runtime, plain, [(await findLearner(runtime.db, plain, 'L4'))!], { reason: 'Secret', until: 'back' });
  await saveView(runtime, plain, { name: 'Secret Ines', query: 'q=Ines&quiet=3' });
});
afterEach(() => runtime.close());

const quiz = async (): Promise<number> => (await runtime.db('item').where('external_id', 'D2').first())!.id;

/** Everything that is ever shown, read as one viewer. */
async function everything(viewer: Viewer): Promise<Record<string, unknown>> {
  const { db } = runtime;
  const view = await openDriftView(runtime, viewer);
  const page = { limit: 50, offset: 0 };
  const list = await learnerList(runtime, viewer, { status: 'all', sort: 'name' });
  const own = list.rows.find((row) => row.phone !== null && row.courses.length === 2)!;
  const person = await learnerPage(runtime, view, own.learner_id);
  const draft = await startDraft(runtime, view, [own.id]);
  return {
    viewer: viewer.name,
    list,
    person,
    csv: await text(await listFile(LEARNERS, { runtime, viewer }, { status: 'all' }, 'csv')),
    extras: { ...(await learnerExtras(runtime, view, person)), details: null },
    contacts: await otherContacts(db, viewer, own.id),
    timeline: await timelineOf(runtime, view, own.id, { kinds: [...TIMELINE_KINDS], before: null }),
    detail: await learnerDetail(runtime, viewer, own.learner_id),
    watch: await watchPage(runtime, view, { part: 'now', band: null, drift: null }, 1),
    names: await watchNames(runtime, view),
    found: await find(runtime, view, own.family_name),
    outbox: await outboxPage(db, view, null, { limit: 50 }),
    replies: await repliesPage(db, view, page),
    notes: await findNotes(db, view, { limit: 50 }),
    followUps: await findFollowUps(db, view, { state: 'any', limit: 50 }),
    aside: await listSetAside(db, viewer, dayOf(runtime.clock.now(), runtime.zone)),
    audit: await findAudit(db, viewer, { limit: 50 }),
    staff: await listStaff(db, viewer),
    runs: await pastRuns(db, viewer, 20, 0),
    missing: await missingFromLastFile(db, viewer),
    views: await savedViews(runtime, viewer),
    crew: await crewOf(db, viewer, await enrolmentsOf(db, view, [own.id])),
    draft: await openDraft(runtime, view, draft),
    planning: await planningChoices(runtime, viewer),
    answers: (await answersInView(db, view, await quiz())).map(({ answer }) => answer),
  };
}

describe('hidden names', () => {
  it('let nothing real reach anything that is shown', async () => {
    const real = await everything(plain);
    const shown = await everything(namesHidden);
    for (const [what, value] of Object.entries(shown)) {
      const text = JSON.stringify(value);
      expect([what, REAL.filter((one) => text.includes(one))]).toEqual([what, []]);
    }
    // The test would see a real one if there were one.
    const seen = REAL.filter((one) => JSON.stringify(real).includes(one));
    expect(seen).toEqual(
      expect.arrayContaining(['Marrow', 'L1', 'l1@learner.example', '+44 1632 960001', 'Secret', 'Mair']),
    );
  });

  it('hide what somebody typed as an answer, not what is right or what several chose', async () => {
    const answers = async (viewer: Viewer) =>
      (await answersInView(runtime.db, await openDriftView(runtime, viewer), await quiz()))
        .map(({ answer }) => answer)
        .sort();
    expect(await answers(plain)).toEqual(['B', 'B', 'B', 'Ines Marrow', 'Secret', 'chisel']);
    expect(await answers(namesHidden)).toEqual(['(text hidden)', '(text hidden)', 'B', 'B', 'B', 'chisel']);
  });

  it('are the same each time, and lead to the same person by their stand-in id alone', async () => {
    const [first, again] = [await learnerList(runtime, namesHidden, {}), await learnerList(runtime, namesHidden, {})];
    expect(first.rows).toEqual(again.rows);
    const one = first.rows[0];
    expect(await findLearner(runtime.db, namesHidden, one.learner_id)).toBe(one.id);
    expect(await findLearner(runtime.db, namesHidden, 'L1')).toBeNull();
    expect(await findLearner(runtime.db, plain, one.learner_id)).toBeNull();
  });

  it('are what one searches and sorts by', async () => {
    const { rows } = await learnerList(runtime, namesHidden, { sort: 'name' });
    const names = rows.map((row) => `${row.family_name} ${row.given_name}`);
    expect(names).toEqual([...names].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1)));
    expect((await learnerList(runtime, namesHidden, { q: rows[0].learner_id })).rows).toEqual([rows[0]]);
    expect((await learnerList(runtime, namesHidden, { q: 'Marrow' })).total).toBe(0);
  });

  it('keep to the viewer’s scope', async () => {
    const mentor = await viewerOf(runtime.db, (await staffByEmail(runtime.db, 'mentor@staff.example'))!, true);
    const all = await learnerList(runtime, namesHidden, { status: 'all' });
    const own = await learnerList(runtime, mentor, { status: 'all' });
    expect(own.total).toBeLessThan(all.total);
    const foreign = all.rows.find((row) => !own.rows.some((one) => one.id === row.id))!;
    expect(await findLearner(runtime.db, mentor, foreign.learner_id)).toBeNull();
  });

  it('do not change what a learner is sent', async () => {
    const view = await openDriftView(runtime, namesHidden);
    const learner = (await findLearner(runtime.db, plain, 'L2'))!;
    const draft = await startDraft(runtime, view, [learner]);
    const { recipients } = await openDraft(runtime, view, draft);
    expect(recipients[0].facts.given_name).not.toBe('Tobias');
    await sendDraft(runtime, view, draft, { subject: 'Hi', body: 'Hello {{given_name}}, {{my_name}}' }, []);
    expect(await runtime.db('message').where('draft_id', draft).first()).toMatchObject({
      address: 'l2@learner.example',
      body: 'Hello Tobias, Hesper Vane',
    });
  });

  it('are switched on for one session', async () => {
    await givePassword(runtime, plain, plain.staffId, { password: 'long enough a word' });
    const signedIn = () => enter(runtime, 'lead@staff.example', 'long enough a word');
    const [here, elsewhere] = [await signedIn(), await signedIn()];
    await setNamesHidden(runtime, here, true);
    expect((await viewerBySession(runtime, here))!.standInKey).toBe(namesHidden.standInKey);
    expect((await viewerBySession(runtime, elsewhere))!.standInKey).toBeNull();
    await setNamesHidden(runtime, here, false);
    expect((await viewerBySession(runtime, here))!.standInKey).toBeNull();
  });
});
