/** The parts of the Watch as time goes by: who waits, who is away, who never started, and what one does about them. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { ANNOUNCED_TO } from '@/core/contact/announcement';
import { dayFromDate } from '@/core/time/zone';
import type { DriftView } from '@/data/view';
import { checkAll } from '../check';
import { logCall } from '../contact/contact';
import { promise } from '../contact/follow-ups';
import { undoSend, sendDraft, startDraft } from '../contact/write';
import { explainPeople } from '../people/people';
import { findLearner } from '../people/reads';
import { openDriftView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { workDue } from '../work/work-due-list';
import { bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { handOverLearners, settleLeft, whoTakes } from './part-actions';
import { readAllPast, recalculate } from './recalculate';
import { needOrder } from './watch';
import { DRIFT, WATCH } from './watch-list';

const OUTLINE = `course,course_title,starts_on,ends_on,item_id,item,kind,required,due_at
DRY,Drystone Walling,2026-09-28,2026-12-21,D1,Stone,page,no,
DRY,Drystone Walling,2026-09-28,2026-12-21,D2,Sheet,assignment,yes,2026-10-30T18:00:00Z
DRY,Drystone Walling,2026-09-28,2026-12-21,D3,Wall,assignment,yes,2026-11-12T18:00:00Z
NET,Net Making,2026-09-28,2026-12-21,N1,Knot,page,no,
`;
/** L0 to L35: enough for a message to be an announcement. */
const PEOPLE = 36;
const ROSTER = [
  'learner_id,given_name,family_name,email,course,group,enrolled_on',
  ...Array.from({ length: PEOPLE }, (_, i) => `L${i},Ines ${i},Marrow,l${i}@learner.example,DRY,A,2026-09-28`),
  'L1,Ines 1,Marrow,l1@learner.example,NET,,2026-09-28',
  '',
].join('\n');
const STAFF = `staff_id,given_name,family_name,email,role,scope_kind,scope
S1,Hesper,Vane,lead@staff.example,lead,all,
S2,Mair,Tolland,mentor@staff.example,mentor,group,DRY/A
S3,Jory,Kestle,instructor@staff.example,instructor,course,DRY
S4,Aldo,Finch,net@staff.example,instructor,course,NET
`;
const DAYS = ['2026-11-02', '2026-11-05', '2026-11-09'];

let runtime: TestRuntime;
let view: DriftView;
const id = async (learner: string) => (await findLearner(runtime, SYSTEM_VIEWER, learner))!;
const ids = (...learners: string[]) => Promise.all(learners.map(id));
const at = async (as_of?: string) => openDriftView(runtime, view.viewer, {}, as_of);
/** The part of each of some learners. */
const partsOf = async (learners: string[], as_of?: string) => {
  const rows = await needOrder(runtime, await at(as_of));
  const numbers = await ids(...learners);
  return numbers.map((number) => rows.find(({ learnerId }) => learnerId === number)?.part ?? null);
};
const come = (day: string, ...learners: string[]) =>
  bringIn(runtime, 'access-log', logOf(learners.map((learner) => `${day}T10:00:00Z,${learner},DRY,D1,opened`)));
const goTo = async (day: string) => {
  runtime.setNow(`${day}T12:00:00Z`);
  // The log goes on: an instructor looks in.
  await bringIn(runtime, 'access-log', logOf([`${day}T11:00:00Z,S3,DRY,D1,opened`]));
  await recalculate(runtime);
  view = await openDriftView(runtime, view.viewer);
};

beforeEach(async () => {
  runtime = await testRuntime('2026-11-10T12:00:00Z');
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  await bringIn(runtime, 'staff', STAFF);
  // All but L0 have been there; L35 alone has handed anything in.
  const there = Array.from({ length: PEOPLE - 1 }, (_, i) => `L${i + 1}`);
  for (const day of DAYS) await come(day, ...there);
  await bringIn(runtime, 'access-log', logOf(['2026-11-02T10:30:00Z,L35,DRY,D2,submitted']));
  view = await openDriftView(runtime, await viewerByEmail(runtime, 'lead@staff.example'));
});
afterEach(async () => {
  expect((await checkAll(runtime)).problems).toEqual([]);
  await runtime.close();
});

describe('over time', () => {
  it('somebody becomes away 14 counted days after they were there, and a break does not count', async () => {
    await goTo('2026-11-22');
    expect(await partsOf(['L0', 'L1'])).toEqual(['never', 'now']);
    await goTo('2026-11-23');
    expect(await partsOf(['L0', 'L1'])).toEqual(['never', 'away']);
    await come('2026-11-23', 'L1');
    expect(await partsOf(['L1', 'L2'])).toEqual(['now', 'away']);
    // looking back finds what was known and done then.
    expect(await partsOf(['L0', 'L1'], '2026-11-22')).toEqual(['never', 'now']);
    const { rows } = await WATCH.read(runtime, view.viewer, { part: 'away', limit: '1000' });
    expect(rows).toHaveLength(PEOPLE - 2);
  });

  it('whoever is enrolled for a day to come is on no part until then, and looking back finds the same', async () => {
    const toCome = 'learner_id,given_name,family_name,course,group,enrolled_on\nL99,Elowen,Trewin,DRY,A,2026-11-12\n';
    await bringIn(runtime, 'roster', toCome);
    expect(await partsOf(['L99', 'L1'])).toEqual([null, 'now']);
    const listed = async () =>
      (await DRIFT.read(runtime, view.viewer, { limit: '1000' })).rows.some(({ row }) => row.learner_id === 'L99');
    expect(await listed()).toBe(false);
    await goTo('2026-11-12');
    expect(await partsOf(['L99'])).toEqual(['now']);
    expect(await listed()).toBe(true);
    await goTo('2026-11-13');
    await readAllPast(runtime);
    expect(await partsOf(['L99'], '2026-11-11')).toEqual([null]);
    expect(await partsOf(['L99'], '2026-11-12')).toEqual(['now']);
  });

  it('whoever was tried waits for 28 days, and as of the day before for nothing', async () => {
    await logCall(runtime, view, await id('L3'), { outcome: 'no_answer', remark: '' });
    expect(await partsOf(['L3', 'L4'])).toEqual(['contacted', 'now']);
    await goTo('2026-12-08');
    expect(await partsOf(['L3', 'L4'])).toEqual(['contacted', 'away']);
    await goTo('2026-12-09');
    expect(await partsOf(['L3'])).toEqual(['away']);
    await readAllPast(runtime);
    expect(await partsOf(['L3'], '2026-11-09')).toEqual(['now']);
    expect(await partsOf(['L3'], '2026-11-10')).toEqual(['contacted']);
  });

  it('being contacted ends on a follow-up’s day, but not for one that was due before', async () => {
    await promise(runtime, view, await ids('L3', 'L4'), { due: '2026-11-10', reason: 'Ring' });
    await logCall(runtime, view, await id('L3'), { outcome: 'no_answer', remark: '' });
    await logCall(runtime, view, await id('L5'), { outcome: 'no_answer', remark: '', next: '2026-11-14' });
    expect(await partsOf(['L3', 'L4', 'L5'])).toEqual(['contacted', 'now', 'contacted']);
    await goTo('2026-11-13');
    expect(await partsOf(['L3', 'L5'])).toEqual(['contacted', 'contacted']);
    await goTo('2026-11-14');
    expect(await partsOf(['L3', 'L5'])).toEqual(['contacted', 'now']);
  });

  it('being contacted ends when they came back and are adrift again a week later', async () => {
    await logCall(runtime, view, await id('L3'), { outcome: 'no_answer', remark: '' });
    await goTo('2026-11-12');
    await come('2026-11-12', 'L3');
    await bringIn(runtime, 'access-log', logOf(['2026-11-12T10:30:00Z,L35,DRY,D3,submitted']));
    await goTo('2026-11-18');
    expect(await partsOf(['L3'])).toEqual(['contacted']);
    await goTo('2026-11-19');
    // Nothing handed in: adrift.
    expect((await needOrder(runtime, view)).find((row) => row.learnerId === 1 + 3)!.band).toBe(2);
    expect(await partsOf(['L3'])).toEqual(['now']);
  });

  it('a message to more than thirty is an announcement, unless its writer says that it is about them', async () => {
    const many = await ids(...Array.from({ length: ANNOUNCED_TO + 1 }, (_, i) => `L${i + 1}`));
    const text = { subject: 'Hall closed', body: 'Hello {{given_name}}' };
    const send = async (people: number[], more: object) => {
      const draft = await startDraft(runtime, view, people);
      await sendDraft(runtime, view, draft, { ...text, ...more }, people.map(String));
      return draft;
    };
    await send(many, {});
    expect(await partsOf(['L1', 'L31'])).toEqual(['now', 'now']);
    const about = await send(many, { is_about: 'yes' });
    expect(await partsOf(['L1', 'L31', 'L32'])).toEqual(['contacted', 'contacted', 'now']);
    await undoSend(runtime, view, about);
    expect(await partsOf(['L1'])).toEqual(['now']);
    // To thirty it is a message.
    await send(many.slice(1), {});
    expect(await partsOf(['L1', 'L2'])).toEqual(['now', 'contacted']);
    // What did not arrive has reached nobody.
    await runtime
      .db('message')
      .where('learner_id', await id('L2'))
      .update({ state: 'bounced' });
    expect(await partsOf(['L2'])).toEqual(['now']);
    await expect(send(many, { is_about: 'perhaps' })).rejects.toMatchObject({ errors: [{ field: 'is_about' }] });
  });

  it('somebody limited to a course sees who is away from it, whatever they do elsewhere', async () => {
    await goTo('2026-11-25');
    await bringIn(runtime, 'access-log', logOf(['2026-11-25T10:00:00Z,L1,NET,N1,opened']));
    expect(await partsOf(['L1'])).toEqual(['now']);
    view = await openDriftView(runtime, await viewerByEmail(runtime, 'instructor@staff.example'));
    expect(await partsOf(['L1'])).toEqual(['away']);
    view = await openDriftView(runtime, await viewerByEmail(runtime, 'net@staff.example'));
    expect(await partsOf(['L1', 'L2'])).toEqual(['now', null]);
  });
});

describe('as a due date goes by', () => {
  const missingOf = async (as_of?: string) => {
    const { rows } = await DRIFT.read(runtime, view.viewer, { course: 'DRY', limit: '1', ...(as_of ? { as_of } : {}) });
    return rows[0].explanation.reasons.find(({ factor }) => factor === 'missing')?.says;
  };
  it('what is not due yet is not missing, and is from its minute on', async () => {
    // D2 fell due on 30 October, D3 does on 12 November at 18:00.
    await goTo('2026-11-12');
    expect(await missingOf()).toMatchObject({ missing: 1, of: 1 });
    runtime.setNow('2026-11-12T17:59:00Z');
    await recalculate(runtime);
    expect(await missingOf()).toMatchObject({ missing: 1, of: 1 });
    runtime.setNow('2026-11-12T18:00:00Z');
    await recalculate(runtime);
    expect(await missingOf()).toMatchObject({ missing: 2, of: 2 });
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('the day before is read to its end, whenever it was read last', async () => {
    await goTo('2026-11-12');
    await goTo('2026-11-13');
    expect(await missingOf('2026-11-12')).toMatchObject({ missing: 2, of: 2 });
    // A clock that is put back.
    runtime.setNow('2026-11-12T10:00:00Z');
    await recalculate(runtime);
    expect(await missingOf()).toMatchObject({ missing: 1, of: 1 });
  });
});

describe('what one does about a part', () => {
  it('handed over, a colleague who sees them all has a follow-up on each', async () => {
    expect((await whoTakes(runtime, view, await ids('L0', 'L2'))).map(({ name }) => name).sort()).toEqual([
      'Jory Kestle',
      'Mair Tolland',
    ]);
    const mentor = (await whoTakes(runtime, view, await ids('L0'))).find(({ role }) => role === 'mentor')!;
    const form = { to: String(mentor.id), reason: 'Ring them', due: '2026-11-17' };
    const made = await handOverLearners(runtime, view, await ids('L0', 'L2'), form);
    expect(await runtime.db('follow_up').whereIn('id', made).select('owner_id', 'due_day', 'reason')).toEqual(
      Array(2).fill({ owner_id: mentor.id, due_day: 20774, reason: 'Ring them' }),
    );
    const wrong = (more: object) => handOverLearners(runtime, view, [1], { ...form, ...more });
    await expect(wrong({ to: '999' })).rejects.toMatchObject({ errors: [{ field: 'to' }] });
    await expect(wrong({ to: 'x' })).rejects.toMatchObject({ errors: [{ field: 'to' }] });
    await expect(wrong({ due: '2026-11-09' })).rejects.toMatchObject({ errors: [{ field: 'due' }] });
    await expect(wrong({ reason: '' })).rejects.toMatchObject({ errors: [{ field: 'reason' }] });
    const net = await openDriftView(runtime, await viewerByEmail(runtime, 'net@staff.example'));
    await expect(handOverLearners(runtime, net, await ids('L0'), form)).rejects.toThrow('Nobody to hand over');
  });

  it('settled as left, they leave the Watch; only a lead settles it', async () => {
    const ended = await settleLeft(runtime, view, await ids('L0', 'L1'));
    // L1 is in two courses.
    expect(ended).toHaveLength(3);
    await recalculate(runtime);
    expect(await partsOf(['L0', 'L1', 'L2'])).toEqual([null, null, 'now']);
    const mentor = await openDriftView(runtime, await viewerByEmail(runtime, 'mentor@staff.example'));
    await expect(settleLeft(runtime, mentor, await ids('L2'))).rejects.toThrow();
  });

  it('settled as left, they stood and owed on the days before what they did then', async () => {
    const overdueBy = async (as_of?: string) =>
      (await workDue(runtime, view.viewer, { learner: 'L1', ...(as_of ? { as_of } : {}) })).rows.map(
        ({ item_id, state, isOverdue }) => ({ item_id, state, isOverdue }),
      );
    const before = await overdueBy();
    expect(before.filter(({ isOverdue }) => isOverdue).map(({ item_id }) => item_id)).toEqual(['D2']);
    await goTo('2026-11-11');
    await settleLeft(runtime, view, await ids('L0', 'L1'));
    await recalculate(runtime);
    await readAllPast(runtime);
    expect(await overdueBy()).toEqual([]);
    expect(await overdueBy('2026-11-10')).toEqual(before);
    expect(await partsOf(['L0', 'L1'], '2026-11-10')).toEqual(['never', 'now']);
    const shown = async (as_of?: string) => {
      const detail = { wakeDays: 28, visits: 0, contacts: 0, status: 'all' } as const;
      const [{ enrolments, wake }] = await explainPeople(runtime, await at(as_of), await ids('L1'), detail);
      return { ends: enrolments.map(({ status, endedDay }) => [status, endedDay]), due: wake.due.length };
    };
    expect(await shown('2026-11-10')).toEqual({ ends: Array(2).fill(['active', null]), due: 1 });
    const ended = dayFromDate('2026-11-11');
    expect(await shown()).toEqual({ ends: Array(2).fill(['withdrawn', ended]), due: 0 });
  });
});

describe('the API', () => {
  it('gives the Watch in its order, page by page, each with their part and reasons that add up', async () => {
    await logCall(runtime, view, await id('L3'), { outcome: 'no_answer', remark: '' });
    const all = (await WATCH.read(runtime, view.viewer, { limit: '1000' })).rows;
    expect(all.map(({ row }) => row.part)).toEqual([...Array(PEOPLE - 2).fill('now'), 'contacted', 'never']);
    const seen: string[] = [];
    for (let cursor: string | null = ''; cursor !== null;) {
      const page = await WATCH.read(runtime, view.viewer, { limit: '10', ...(cursor ? { cursor } : {}) });
      expect(page.total).toBe(PEOPLE);
      seen.push(...page.rows.map(({ person }) => person.learnerId));
      cursor = page.next;
    }
    expect(seen).toEqual(all.map(({ person }) => person.learnerId));
    const [{ row, person }] = all;
    const reasons = WATCH.columns.reasons.figures.reasons({ row, person });
    expect(reasons.reduce((sum, { points }) => sum + points, 0)).toBe(Math.round(row.score!));
    for (const wrong of [{ part: 'gone' }, { as_of: '2026-02-30' }, { as_of: '2027-01-01' }, { cursor: '!' }])
      await expect(WATCH.read(runtime, view.viewer, wrong)).rejects.toMatchObject({
        errors: [{ field: Object.keys(wrong)[0] }],
      });
    await expect(WATCH.read(runtime, view.viewer, { course: 'NOT' })).rejects.toThrow('No such course');
  });

  it('gives each enrolment’s drift with its reasons, and why there is none', async () => {
    const { rows, total } = await DRIFT.read(runtime, view.viewer, { course: 'DRY', limit: '1000' });
    expect(total).toBe(PEOPLE);
    expect(rows[0].row).toMatchObject({ learner_id: 'L0', score: 100, band: 2 });
    const own = DRIFT.columns.reasons.figures.reasons(rows[0]);
    expect(own.reduce((sum, { points }) => sum + points, 0)).toBeCloseTo(rows[0].row.score!, 9);
    const byName = await DRIFT.read(runtime, view.viewer, { course: 'NET', sort: 'name' });
    expect(byName.rows.map(({ row }) => row.learner_id)).toEqual(['L1']);
    await readAllPast(runtime);
    const early = await DRIFT.read(runtime, view.viewer, { course: 'DRY', as_of: '2026-10-02', limit: '2' });
    expect(early.rows.map(({ row, explanation }) => [row.score, explanation.without])).toEqual(
      Array(2).fill([null, 'early']),
    );
  });
});
