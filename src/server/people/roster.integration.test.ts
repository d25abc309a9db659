import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { findAudit } from '@/data/audit';
import { findLearner } from '@/data/people/learners';
import { enrolmentsOf } from '@/data/people/enrolments';
import { missingFromLastFile } from '@/data/people/roster';
import type { Viewer } from '@/data/scope';
import { listStaff } from '@/data/staff/staff-accounts';
import { checkAll } from '../check';
import { saveNote } from '../contact/contact';
import { learnerDetail } from './learner-detail';
import { learnerList } from './learner-list';
import { recalculate } from '../drift/recalculate';
import { mergeLearners, unmergeLearners } from './merging';
import { removeOtherContact, saveOtherContact } from './other-contacts';
import { changeLearner, endEnrolments, enrol, enterLearner, moveGroup, resumeEnrolments } from './roster';
import { viewerBySession } from '../staff/sessions';
import { changeStaff, endStaff, enterStaff, givePassword, giveScope, takeScope } from '../staff/staff-accounts';
import { enter, SMALL, bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { openDriftView } from '../request/view';
import { otherContacts } from '@/data/people/contact-details';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;

beforeEach(async () => {
  runtime = await smallRuntime();
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
});
afterEach(() => runtime.close());

const id = async (learner: string, viewer = lead) => (await findLearner(runtime.db, viewer, learner))!;
const enrolmentIn = async (learner: string, course: string) => {
  const rows = await enrolmentsOf(runtime.db, await openDriftView(runtime, lead), [await id(learner)]);
  return rows.find((row) => row.course === course)!;
};
const changes = async (limit = 20) =>
  (await findAudit(runtime.db, lead, { limit })).rows.map((row) => `${row.by ?? 'nobody'} ${row.what} ${row.subject}`);

describe('the roster by hand', () => {
  const NEW = {
    learner_id: 'L20',
    given_name: 'Bo',
    family_name: 'Tarn',
    course: 'DRY',
    group: 'C',
    enrolled_on: '2026-11-01',
  };

  it('adds a learner, who is on the list, with every change on record', async () => {
    await enterLearner(runtime, lead, NEW);
    const { rows } = await learnerList(runtime, lead, { q: 'tarn' });
    expect(rows).toMatchObject([{ learner_id: 'L20', courses: ['DRY'] }]);
    expect((await changes()).slice(0, 2)).toEqual([
      'Hesper Vane enrolled DRY / C',
      'Hesper Vane added the learner L20',
    ]);
    await expect(enterLearner(runtime, lead, NEW)).rejects.toThrow('learner_id is taken');
    await expect(enterLearner(runtime, lead, { ...NEW, learner_id: 'L21', enrolled_on: '2026-02-30' })).rejects.toThrow(
      'enrolled_on is not a date',
    );
    await expect(enterLearner(runtime, lead, { ...NEW, learner_id: 'L21', course: 'NIX' })).rejects.toThrow(
      'no course NIX',
    );
    await expect(enterLearner(runtime, mentor, { ...NEW, learner_id: 'L21' })).rejects.toThrow();
    expect(await findLearner(runtime.db, lead, 'L21')).toBeNull();
  });

  it('lets mentors change how a learner is reached, and a lead who they are', async () => {
    const learner = await id('L1');
    await changeLearner(runtime, mentor, learner, {
      email: 'l1@learner.example',
      phone: '01632 960111',
      given_name: 'Nobody',
    });
    const detail = await learnerDetail(runtime, lead, 'L1');
    expect(detail).toMatchObject({ name: 'Ines Marrow', phone: '01632 960111' });
    const [change] = (await findAudit(runtime.db, mentor, { learnerId: learner, limit: 1 })).rows;
    expect(change).toMatchObject({
      what: 'changed the details',
      changes: { phone: ['+44 1632 960001', '01632 960111'] },
    });
    await changeLearner(runtime, lead, learner, { given_name: 'Inês', email: 'l1@learner.example' });
    expect(await learnerDetail(runtime, lead, 'L1')).toMatchObject({ name: 'Inês', phone: null, organisation: null });
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    await expect(changeLearner(runtime, coordinator, learner, { phone: '1' })).rejects.toThrow();
    await expect(changeLearner(runtime, mentor, await id('L3'), { phone: '1' })).rejects.toThrow();
    await expect(changeLearner(runtime, mentor, learner, { timezone: 'Moon/Sea' })).rejects.toThrow(
      'timezone is not a time zone',
    );
  });

  it('moves groups, ends and resumes; drift is read anew', async () => {
    await bringIn(runtime, 'access-log', logOf(['2026-11-20T10:00:00Z,L2,DRY,D2,submitted']));
    const enrolment = await enrolmentIn('L1', 'DRY');
    await moveGroup(runtime, lead, enrolment.id, 'B');
    expect(await enrolmentIn('L1', 'DRY')).toMatchObject({ group: 'B' });
    expect(await findLearner(runtime.db, mentor, 'L1')).toBeNull();
    await expect(moveGroup(runtime, mentor, enrolment.id, 'A')).rejects.toThrow();
    const end = (ended_on: string) => endEnrolments(runtime, lead, [enrolment.id], { status: 'withdrawn', ended_on });
    await expect(end('2026-09-01')).rejects.toThrow('lies before the enrolment of 2026-09-28');
    await expect(end('2026-02-30')).rejects.toThrow('ended_on is not a date');
    expect(await end('2026-11-20')).toEqual([enrolment.id]);
    await recalculate(runtime);
    expect(await enrolmentIn('L1', 'DRY')).toMatchObject({ status: 'withdrawn', score: null });
    await resumeEnrolments(runtime, lead, [enrolment.id]);
    await recalculate(runtime);
    expect((await enrolmentIn('L1', 'DRY')).score).not.toBeNull();
    await expect(enrol(runtime, lead, await id('L1'), { course: 'DRY' })).rejects.toThrow('has them already');
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('keeps other contacts, with what was taken away on record', async () => {
    const learner = await id('L1');
    await saveOtherContact(runtime, mentor, learner, null, {
      name: 'Ada',
      relation: 'employer',
      phone: '01632 960222',
    });
    await expect(saveOtherContact(runtime, mentor, learner, null, { name: 'x' })).rejects.toThrow(
      'relation is missing',
    );
    const [contact] = await otherContacts(runtime.db, mentor, learner);
    expect(contact).toMatchObject({ name: 'Ada', relation: 'employer' });
    expect(await otherContacts(runtime.db, await viewerByEmail(runtime, 'one@staff.example'), learner)).toEqual([]);
    await removeOtherContact(runtime, mentor, learner, contact.id);
    expect((await changes(1))[0]).toBe('Mair Tolland removed a contact Ada (employer) 01632 960222');
  });
});

describe('in our list but not in the last file', () => {
  it('are those of the file’s own courses, hand-added ones marked', async () => {
    expect((await missingFromLastFile(runtime.db, lead)).rows).toEqual([]);
    await enterLearner(runtime, lead, { learner_id: 'L20', given_name: 'Bo', course: 'DRY' });
    const [heading, first] = SMALL.roster.split('\n');
    await bringIn(runtime, 'roster', `${heading}\n${first}\n`, { file_name: 'week.csv' });
    const { file, rows } = await missingFromLastFile(runtime.db, lead);
    expect(file?.name).toBe('week.csv');
    // L3 is in NET alone, of which the file says nothing; L5 has left.
    expect(rows.map((row) => [row.learner_id, row.course, row.by_hand])).toEqual([
      ['L20', 'DRY', 1],
      ['L4', 'DRY', 0],
      ['L2', 'DRY', 0],
    ]);
    // A file of another course that comes after it hides nobody.
    const other = SMALL.roster.split('\n').filter((line) => line === heading || line.includes(',NET,'));
    await bringIn(runtime, 'roster', `${other.join('\n')}\n`, { file_name: 'net.csv' });
    expect(await missingFromLastFile(runtime.db, lead)).toMatchObject({ file: { name: 'net.csv' }, rows });
    await endEnrolments(
      runtime,
      lead,
      rows.map((row) => row.enrolment),
      { status: 'withdrawn' },
    );
    expect((await missingFromLastFile(runtime.db, lead)).rows).toEqual([]);
    expect(await runtime.db('learner').count('* as n')).toEqual([{ n: 6 }]);
  });
});

describe('merging two records of one person', () => {
  async function twoRecords() {
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,family_name,phone,organisation,course,group,enrolled_on\nM1,Ines,Marrow,,Norrick,NET,B,2026-09-20\nM1,Ines,Marrow,,Norrick,DRY,A,2026-09-20\n',
    );
    const lines = (who: string, hour: number) =>
      Array.from(
        { length: 8 },
        (_, i) => `2026-11-${String(10 + i).padStart(2, '0')}T${hour}:00:00Z,${who},DRY,D1,opened`,
      );
    await bringIn(runtime, 'access-log', logOf([...lines('L1', 10), ...lines('M1', 11)]));
    const [kept, gone] = [await id('L1'), await id('M1')];
    await saveNote(runtime, lead, gone, { body: 'On the other record' });
    return { kept, gone };
  }
  const figures = async () => {
    await recalculate(runtime);
    const { db } = runtime;
    const tables = ['visit_course', 'learner_day', 'item_day', 'learner_course', 'enrolment', 'note', 'event'];
    return Promise.all(
      tables.map((table) =>
        db(table)
          .orderBy(table === 'learner_course' ? ['learner_id', 'course_id'] : [1])
          .select('*'),
      ),
    );
  };

  it('loses nothing, and leads the old id to the kept record', async () => {
    const { kept, gone } = await twoRecords();
    await mergeLearners(runtime, lead, kept, gone);
    await recalculate(runtime);
    expect(await id('M1')).toBe(kept);
    const detail = await learnerDetail(runtime, lead, 'M1');
    expect(detail.learner_id).toBe('L1');
    expect(detail.enrolments.map((one) => one.course).sort()).toEqual(['DRY', 'NET']);
    expect(await runtime.db('event').where('learner_id', kept).count('* as n')).toEqual([{ n: 16 }]);
    expect((await enrolmentIn('L1', 'DRY')).enrolled_day).toBe(20716);
    const { rows, total } = await learnerList(runtime, lead, { q: 'marrow', status: 'all' });
    expect([total, rows[0].learner_id]).toEqual([1, 'L1']);
    expect(await runtime.db('note').first()).toMatchObject({ learner_id: kept });
    expect((await checkAll(runtime)).problems).toEqual([]);
    // A log and a roster that still name the old id are about the kept record.
    expect(await bringIn(runtime, 'access-log', logOf(['2026-11-20T10:00:00Z,M1,DRY,D1,opened']))).toMatchObject({
      accepted: 1,
    });
    await bringIn(runtime, 'roster', 'learner_id,given_name,course\nM1,Ines,NET\n');
    expect(await runtime.db('event').where('learner_id', gone)).toEqual([]);
    expect(await runtime.db('enrolment').where({ learner_id: gone, status: 'active' })).toEqual([]);
    expect((await checkAll(runtime)).problems).toEqual([]);
  });

  it('is undone to what was before', async () => {
    const { kept, gone } = await twoRecords();
    const before = await figures();
    await mergeLearners(runtime, lead, kept, gone);
    await figures();
    await unmergeLearners(runtime, lead, kept);
    expect(await figures()).toEqual(before);
    expect(await id('M1')).toBe(gone);
    expect((await checkAll(runtime)).problems).toEqual([]);
    await expect(unmergeLearners(runtime, lead, kept)).rejects.toThrow('No merge to undo');
    expect((await changes(2)).map((line) => line.replace(/ \S+ (into|from).*/, ''))).toEqual([
      'Hesper Vane took apart',
      'Hesper Vane merged',
    ]);
  });

  it('across organisations is refused to somebody who sees only one of them', async () => {
    const [own, foreign] = [await id('L1'), await id('L2')];
    await giveScope(runtime, lead, mentor.staffId, { kind: 'organisation', target: 'Norrick' });
    const limited = await viewerByEmail(runtime, 'mentor@staff.example');
    const tables = () => Promise.all(['learner', 'enrolment', 'merge', 'audit'].map((table) => runtime.db(table)));
    const before = await tables();
    await expect(mergeLearners(runtime, limited, own, foreign)).rejects.toThrow('No such learner');
    await expect(mergeLearners(runtime, limited, foreign, own)).rejects.toThrow('No such learner');
    await expect(
      mergeLearners(runtime, await viewerByEmail(runtime, 'instructor@staff.example'), own, foreign),
    ).rejects.toThrow();
    await expect(mergeLearners(runtime, lead, own, own)).rejects.toThrow('this same record');
    expect(await tables()).toEqual(before);
    await giveScope(runtime, lead, mentor.staffId, { kind: 'organisation', target: 'Penhallow' });
    await mergeLearners(runtime, await viewerByEmail(runtime, 'mentor@staff.example'), own, foreign);
    expect(await id('L2')).toBe(own);
  });
});

describe('staff accounts', () => {
  const form = { given_name: 'Tamsin', family_name: 'Roe', email: 'tamsin@staff.example', role: 'mentor' };

  it('are added, given scopes and a password, changed and ended by a lead alone', async () => {
    const added = await enterStaff(runtime, lead, form);
    await expect(enterStaff(runtime, lead, form)).rejects.toThrow('email belongs to');
    await expect(enterStaff(runtime, mentor, { ...form, email: 'x@staff.example' })).rejects.toThrow();
    await expect(giveScope(runtime, lead, added, { kind: 'group', target: 'DRY-A' })).rejects.toThrow('COURSE/GROUP');
    await expect(giveScope(runtime, lead, added, { kind: 'course' })).rejects.toThrow('target is missing');
    for (const scope of [
      ['course', 'NET'],
      ['group', 'DRY/A'],
      ['learner', 'L4'],
      ['organisation', 'Norrick'],
    ]) {
      await giveScope(runtime, lead, added, { kind: scope[0], target: scope[1] });
    }
    const row = async () => (await listStaff(runtime.db, lead)).find((one) => one.id === added)!;
    expect((await row()).scopes.map((scope) => scope.target).sort()).toEqual(['DRY/A', 'L4', 'NET', 'Norrick']);
    const [taken] = (await row()).scopes;
    await takeScope(runtime, lead, added, taken.id);
    expect((await changes(1))[0]).toBe(
      `Hesper Vane took a scope Tamsin Roe (tamsin@staff.example): ${taken.kind} ${taken.target}`,
    );
    // What the undo of it sends.
    await giveScope(runtime, lead, added, { ...taken });
    expect((await row()).scopes.map(({ kind, target }) => ({ kind, target }))).toContainEqual({
      kind: taken.kind,
      target: taken.target,
    });
    await expect(givePassword(runtime, lead, added, { password: 'short' })).rejects.toThrow('12 characters');
    await givePassword(runtime, lead, added, { password: 'long enough a word' });
    const token = await enter(runtime, form.email, 'long enough a word');
    expect(await viewerBySession(runtime, token)).toMatchObject({ name: 'Tamsin Roe', role: 'mentor' });
    await changeStaff(runtime, lead, added, { ...form, role: 'instructor' });
    await endStaff(runtime, lead, added, true);
    expect(await viewerBySession(runtime, token)).toBeNull();
    await expect(enter(runtime, form.email, 'long enough a word')).rejects.toThrow('do not match');
    expect((await changes(2))[0]).toBe('Hesper Vane ended an account Tamsin Roe (tamsin@staff.example)');
    await endStaff(runtime, lead, added, false);
    expect(await row()).toMatchObject({ ended_at: null, role: 'instructor', signs_in: true });
  });

  it('never leave the programme without a lead', async () => {
    await givePassword(runtime, lead, lead.staffId, { password: 'long enough a word' });
    const own = (await listStaff(runtime.db, lead)).find((one) => one.id === lead.staffId)!;
    await expect(endStaff(runtime, lead, lead.staffId, true)).rejects.toThrow('nobody else leads');
    await expect(takeScope(runtime, lead, lead.staffId, own.scopes[0].id)).rejects.toThrow('nobody else leads');
    await expect(
      changeStaff(runtime, lead, lead.staffId, { ...form, email: own.email, role: 'mentor' }),
    ).rejects.toThrow('nobody else leads');
    expect((await listStaff(runtime.db, lead)).find((one) => one.id === lead.staffId)).toEqual(own);
  });
});

describe('the list of changes', () => {
  it('is a lead’s in whole, others see the changes to learners and in courses of theirs', async () => {
    await enrol(runtime, lead, await id('L1'), { course: 'TTU' }).catch(() => undefined);
    await moveGroup(runtime, lead, (await enrolmentIn('L1', 'NET')).id, 'B');
    await moveGroup(runtime, lead, (await enrolmentIn('L1', 'DRY')).id, 'A2');
    await moveGroup(runtime, lead, (await enrolmentIn('L1', 'DRY')).id, 'A');
    const seen = async (viewer: Viewer) =>
      (await findAudit(runtime.db, viewer, { limit: 50 })).rows.map((row) => row.course);
    expect(await seen(mentor)).toEqual(['DRY', 'DRY']);
    expect(await seen(await viewerByEmail(runtime, 'norrick@partner.example'))).toEqual(['DRY', 'DRY', 'NET']);
    expect((await changes()).at(-1)).toBe('nobody brought in a file outline.csv (outline): 3 taken, 0 rejected');
  });
});
