import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { countLog } from '@/data/access/log/counts';
import { eventInView, type Viewer } from '@/data/scope';
import { recalculate } from '../drift/recalculate';
import { LISTS } from '../lists';
import { readDefinition } from '../reports/define';
import { openReport } from '../reports/open';
import { chosenOf, paramsOf } from '../reports/link';
import { InvalidInput, NotFound, fieldsOf, type Values } from '../request/input';
import { openDriftView, openView } from '../request/view';
import { NEEDED_BY_LIST, askList, bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import {
  caseloadAnswer,
  caseloadAnswers,
  caseloadsOf,
  dropCaseload,
  makeCaseload,
  putInCaseload,
  saveCaseload,
  shareOwnCaseload,
} from './caseloads';
import { learnerList } from './learner-list';
import { mergeLearners } from './merging';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime([
    '2026-11-20T10:00:00Z,L1,DRY,D1,opened',
    '2026-11-20T10:10:00Z,L1,NET,N1,opened',
    '2026-11-22T10:00:00Z,L3,NET,N1,opened',
    '2026-11-23T10:00:00Z,L2,DRY,D1,opened',
  ]);
  await bringIn(
    runtime,
    'sessions',
    'course,group,session_id,title,starts_at,ends_at,mode\nDRY,,S1,Walls,2026-11-10T10:00:00Z,2026-11-10T11:00:00Z,online\nNET,,S2,Knots,2026-11-12T10:00:00Z,2026-11-12T11:00:00Z,online\n',
  );
  await bringIn(runtime, 'marks', 'session_id,learner_id,mark\nS1,L1,present\nS1,L2,absent\nS2,L3,late\n');
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  await runtime.db('staff').update({ password_hash: 'x' });
});
afterEach(() => runtime.close());

const idOf = async (learner: string) => (await runtime.db('learner').where('external_id', learner).first('id'))!.id;
const make = (values: Values, viewer = lead) => makeCaseload(runtime, viewer, { name: 'Tuesday club', ...values });
const inIt = async (id: number, viewer = lead) =>
  (await learnerList(runtime, viewer, { caseload: String(id), status: 'all', sort: 'learner_id' })).rows.map(
    (row) => row.learner_id,
  );

describe('whom a caseload holds', () => {
  it('is by hand, by a rule, or both, without those who were left out', async () => {
    expect(await inIt(await make({ learners: ['L3', 'L2'] }))).toEqual(['L2', 'L3']);
    expect(await inIt(await make({ rule: { organisation: 'Penhallow' } }))).toEqual(['L2', 'L3']);
    const both = await make({ rule: { organisation: 'Penhallow' }, learners: ['L4'], left_out: ['L2'] });
    expect(await inIt(both)).toEqual(['L3', 'L4']);
    expect(await inIt(await make({}))).toEqual([]);
  });

  it('follows its rule as people come and go, and keeps to what was said by hand', async () => {
    const id = await make({ rule: { organisation: 'Norrick' }, left_out: ['L1'] });
    expect(await inIt(id)).toEqual([]);
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,family_name,organisation,course,group,enrolled_on,status\nL9,Mabli,Brine,Norrick,DRY,A,2026-11-01,active\n',
    );
    expect(await inIt(id)).toEqual(['L9']);
    await putInCaseload(runtime, lead, id, [await idOf('L1')], 'rule');
    expect(await inIt(id)).toEqual(['L1', 'L9']);
    await putInCaseload(runtime, lead, id, [await idOf('L9')], 'out');
    await putInCaseload(runtime, lead, id, [await idOf('L3')], 'in');
    expect(await inIt(id)).toEqual(['L1', 'L3']);
  });

  it('stays whole when two records of one person become one', async () => {
    const id = await make({ learners: ['L3'], left_out: [] });
    await mergeLearners(runtime, lead, await idOf('L2'), await idOf('L3'));
    expect(await inIt(id)).toEqual(['L2']);
  });

  it('holds those by hand where its rule names a course that is gone, and says why', async () => {
    const id = await make({ rule: { course: 'DRY', quiet: '0' }, learners: ['L3'] });
    await runtime.db('course').where('code', 'DRY').update({ code: 'OLD' });
    expect(await inIt(id)).toEqual(['L3']);
    expect(await caseloadsOf(runtime, lead)).toMatchObject([{ learners: 1, fault: expect.stringContaining('gone') }]);
  });

  it('is one of several for the same learner', async () => {
    const ids = [await make({ learners: ['L1'] }), await make({ learners: ['L1'] }), await make({ learners: ['L1'] })];
    for (const id of ids) expect(await inIt(id)).toEqual(['L1']);
  });
});

describe('every list', () => {
  const asked = LISTS.filter(({ query }) => fieldsOf(query).includes('caseload'));

  it('that takes a part takes a caseload', () => {
    const parts = LISTS.filter(({ query }) => fieldsOf(query).includes('organisation'));
    expect(asked).toEqual(parts);
    expect(asked.length).toBeGreaterThan(12);
  });

  it.each(asked.map((list) => [(list as { name: string }).name, list] as const))(
    '%s shows of a caseload what it shows of an organisation with the same people',
    async (name, list) => {
      const id = await make({ name: 'N', rule: { organisation: 'Norrick', status: 'all' } });
      const needed = NEEDED_BY_LIST[name] ?? {};
      const [ours, theirs] = await Promise.all([
        askList(list, runtime, lead, { ...needed, caseload: String(id) }),
        askList(list, runtime, lead, { ...needed, organisation: 'Norrick' }),
      ]);
      expect(ours.rows).toEqual(theirs.rows);
      expect(await askList(list, runtime, lead, { ...needed, caseload: 'N' })).toMatchObject({ rows: ours.rows });
      await expect(askList(list, runtime, lead, { ...needed, caseload: '999' })).rejects.toThrow(NotFound);
    },
  );

  it('and the stream and the counts of the log are cut to it', async () => {
    const id = await make({ learners: ['L1'] });
    const view = await openView(runtime, lead, { caseload: String(id) });
    const event = { course_id: 1, group_id: null, organisation_id: null, is_enrolled: 1 };
    expect(eventInView(view, { ...event, learner_id: await idOf('L1') })).toBe(true);
    expect(eventInView(view, { ...event, learner_id: await idOf('L2') })).toBe(false);
    for (const few of [0, 1000]) {
      const { total } = await countLog(runtime.db, { scope: view, filter: { staff: 'yes' }, zone: runtime.zone, few });
      expect(total).toBe(2);
    }
  });

  it('reports on a caseload, and a link keeps it', async () => {
    const id = await make({ learners: ['L1', 'L3'] });
    const report = { name: 'Of it', whose: { caseload: id }, per: 'learner', columns: ['name'], for: 'staff' };
    const { definition } = await readDefinition(runtime, lead, report);
    expect((await openReport(runtime, lead, definition, { isNew: true })).ids).toHaveLength(2);
    const params = paramsOf(definition);
    expect(params.in).toBe(`caseload:${id}`);
    expect(chosenOf(params).values.whose).toEqual({ caseload: String(id) });
    await dropCaseload(runtime, lead, String(id));
    await expect(openReport(runtime, lead, definition)).rejects.toThrow(/whose.caseload/);
  });
});

describe('a caseload that is shared', () => {
  it('shows a colleague only whom they may see, and is theirs to look at alone', async () => {
    const id = await make({ learners: ['L1', 'L2', 'L3'] });
    await expect(openDriftView(runtime, mentor, { caseload: String(id) })).rejects.toThrow(NotFound);
    await shareOwnCaseload(runtime, lead, id, [mentor.staffId]);
    expect(await inIt(id, mentor)).toEqual(['L1']);
    expect(await caseloadsOf(runtime, mentor)).toMatchObject([{ id, learners: 1, isOwn: false, owner: 'Hesper Vane' }]);
    expect((await caseloadAnswer(runtime, mentor, String(id))).learners).toEqual(['L1']);
    for (const change of [
      () => saveCaseload(runtime, mentor, String(id), { name: 'Mine' }),
      () => dropCaseload(runtime, mentor, String(id)),
      () => shareOwnCaseload(runtime, mentor, id, []),
      () => idOf('L1').then((learner) => putInCaseload(runtime, mentor, id, [learner], 'out')),
    ])
      await expect(change()).rejects.toThrow(NotFound);
    await shareOwnCaseload(runtime, lead, id, []);
    await expect(caseloadAnswer(runtime, mentor, String(id))).rejects.toThrow(NotFound);
  });

  it('runs its rule in the scope of whoever looks', async () => {
    const id = await make({ rule: { status: 'all' }, shared_with: [mentor.staffId] });
    expect(await inIt(id)).toEqual(['L1', 'L2', 'L3', 'L4', 'L5']);
    expect(await inIt(id, mentor)).toEqual(['L1', 'L4', 'L5']);
  });

  it('is for no partner’s contact, and a coordinator has their own', async () => {
    const coordinator = await viewerByEmail(runtime, 'norrick@partner.example');
    await expect(make({ shared_with: [coordinator.staffId] })).rejects.toThrow(/no colleague/);
    await expect(make({ learners: ['L2'] }, coordinator)).rejects.toThrow(/names somebody who is not there/);
    const own = await make({ learners: ['L1'] }, coordinator);
    expect(await inIt(own, coordinator)).toEqual(['L1']);
    expect(await caseloadsOf(runtime, lead)).toEqual([]);
  });

  it('lets those be whom its owner no longer sees, when they change it', async () => {
    const id = await make({ learners: ['L1', 'L4'] }, mentor);
    await runtime
      .db('enrolment')
      .where('learner_id', await idOf('L4'))
      .update({ group_id: null });
    await saveCaseload(runtime, mentor, String(id), { name: 'Fewer', learners: [] });
    expect(await runtime.db('caseload_learner').pluck('learner_id')).toEqual([await idOf('L4')]);
  });
});

describe('what makes no caseload', () => {
  it.each([
    [{ name: '' }, 'name is missing'],
    [{ name: ['x'] }, 'name is not a text'],
    [{ name: '<'.repeat(81) }, 'longer than 80'],
    [{ learners: ['L1', 'nobody'] }, 'learners names somebody who is not there: nobody'],
    [{ learners: 'L1' }, 'learners is not a list'],
    [{ learners: [{}] }, 'learners is not a list'],
    [{ learners: ['L1'], left_out: ['L1'] }, 'left_out names somebody who is put in'],
    [{ rule: { organization: 'Norrick' } }, 'rule.organization is no filter'],
    [{ rule: { quiet: 'x' } }, 'rule.quiet is not a number'],
    [{ rule: { course: 'NOPE' } }, 'rule names a course'],
    [{ rule: { caseload: '1' } }, 'rule.caseload is a caseload'],
    [{ rule: 'in=caseload:1' }, 'rule.caseload is a caseload'],
    [{ rule: [1] }, 'rule is not an object'],
    [{ shared_with: [999] }, 'shared_with names somebody'],
  ])('%j: %s', async (values, says) => {
    await expect(make(values as Values)).rejects.toThrow(InvalidInput);
    await expect(make(values as Values)).rejects.toThrow(says);
    expect(await caseloadsOf(runtime, lead)).toEqual([]);
  });

  it('is changed under hidden names: they would be lost', async () => {
    const id = await make({ rule: { q: 'Ines' } });
    const hidden = { ...lead, standInKey: 'k' };
    expect(JSON.stringify(await caseloadAnswers(runtime, hidden))).not.toMatch(/Ines|Tuesday/);
    // It holds the same people: a rule that looks for a name finds it behind the stand-ins.
    expect((await caseloadAnswer(runtime, hidden, String(id))).total).toBe(1);
    await expect(saveCaseload(runtime, hidden, String(id), { name: 'x' })).rejects.toThrow(/hidden/);
    await expect(openView(runtime, hidden, { caseload: 'Tuesday club' })).rejects.toThrow(NotFound);
  });
});
