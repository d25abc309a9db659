import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { progress } from '../completion/progress-list';
import { learnerCourse } from '../completion/learner-course';
import { courses } from '../courses/courses-list';
import { changeItem, effectOfItem, removeItem } from '../courses/course-rules';
import { NotFound, type Values } from '../request/input';
import { courseSettings, saveCourseSetting } from '../courses/course-settings';
import { recalculate } from '../drift/recalculate';
import { changes } from '../grades/changes-list';
import { grades } from '../grades/grades-list';
import { dismissAttempt, scoreByHand, settleScore } from '../grades/grading';
import { learnerDetail } from '../people/learner-detail';
import { rejectsStream } from '../imports/show';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, counts, viewerByEmail, type TestRuntime } from '../testing';
import { extendItems, overrideItems, undoChange } from './completion-changes';
import { workDue } from './work-due-list';

import { ALL, OUTLINE, openDryWork, result, type DryWork } from './testing';

let work: DryWork;
let runtime: TestRuntime;
beforeEach(async () => {
  work = await openDryWork();
  runtime = work.runtime;
});
afterEach(() => work.close());

const means = async (learner: string) => {
  const { rows } = await grades(runtime, SYSTEM_VIEWER, { ...ALL, course: 'DRY', status: 'all' });
  return rows.find(({ enrolled }) => enrolled.learner_id === learner)!.means;
};
const stateOf = async (learner: string, item: string) => {
  const { page } = await learnerCourse(runtime, SYSTEM_VIEWER, learner, 'DRY');
  return page.items.find((one) => one.item.externalId === item)!;
};

describe('files of results', () => {
  it('refuse what cannot be, row by row, and take the rest', async () => {
    const run = await bringIn(
      runtime,
      'results',
      result(
        'L1,DRY,D2,1,2026-10-01T10:00:00Z,2026-10-01T11:00:00Z,25,20,2026-10-02T11:00:00Z,S3,',
        'L2,DRY,D2,1,,,-1,20,,,',
        'L2,DRY,D9,1,,,5,20,,,',
        'L3,DRY,D2,1,,,5,20,,,',
        'L9,DRY,D2,1,,,5,20,,,',
        'L2,NOT,D2,1,,,5,20,,,',
        'L2,DRY,D2,0,,,5,20,,,',
        'L2,DRY,D2,1,yesterday,,5,20,,,',
        'L2,DRY,D2,1,,,five,20,,,',
      ),
    );
    expect(counts(run)).toMatchObject({ accepted: 1, rejected: 8 });
    const lines = (await new Response(await rejectsStream(runtime, run)).text()).trim().split(/\r?\n/).slice(1);
    expect(lines.map((line) => line.split(',').slice(0, 2).join(' '))).toEqual([
      '3 score',
      '4 item_id',
      '5 learner_id',
      '6 learner_id',
      '7 course',
      '8 attempt',
      '9 started_at',
      '10 score',
    ]);
    // Points above the maximum are kept.
    expect((await means('L1')).on_graded_work).toBeCloseTo(125);
  });

  it('in the wrong order, late and twice come to the same, and every change is in the history', async () => {
    const older = result('L1,DRY,D2,1,2026-10-01T10:00:00Z,2026-10-01T11:00:00Z,10,20,2026-10-02T11:00:00Z,S3,first');
    const newer = result('L1,DRY,D2,1,,2026-10-01T11:00:00Z,16,20,2026-10-09T11:00:00Z,S3,better');
    await bringIn(runtime, 'results', newer);
    await bringIn(runtime, 'results', older);
    for (const again of [older, newer, older]) expect((await bringIn(runtime, 'results', again)).accepted).toBe(0);
    const one = await stateOf('L1', 'D2');
    expect(one.attempts).toMatchObject([
      { score: 16, feedback: 'better', started_at: Date.parse('2026-10-01T10:00:00Z') },
    ]);
    const { rows } = await changes(runtime, SYSTEM_VIEWER, { ...ALL, course: 'DRY' });
    expect(rows.map(({ old, score }) => [old, score])).toEqual([
      [10, 16],
      [null, 10],
    ]);
    // An export from before it was graded does not take the grade away.
    await bringIn(runtime, 'results', result('L1,DRY,D2,1,,2026-10-01T11:00:00Z,,20,,,'));
    expect((await stateOf('L1', 'D2')).counting?.score).toBe(16);
  });

  it('take two results for one attempt as one and its correction, and a grade before its hand-in', async () => {
    await bringIn(
      runtime,
      'results',
      result(
        'L1,DRY,D3,,,,40,100,2026-10-02T11:00:00Z,S3,',
        'L1,DRY,D3,,,,60,100,2026-10-03T11:00:00Z,S3,',
        'L2,DRY,D3,1,2026-10-10T10:00:00Z,2026-10-11T11:00:00Z,50,100,2026-10-09T11:00:00Z,S3,',
      ),
    );
    expect((await stateOf('L1', 'D3')).attempts).toHaveLength(1);
    expect((await means('L1')).on_graded_work).toBe(60);
    expect((await stateOf('L2', 'D3')).dueState).toBe('graded');
    expect(
      (await changes(runtime, SYSTEM_VIEWER, { course: 'DRY', learner: 'L1' })).rows.map(({ old }) => old),
    ).toEqual([40, null]);
  });

  it('count points as they are now after they changed, and say whom a changed outline affects', async () => {
    await bringIn(
      runtime,
      'results',
      result(
        'L1,DRY,D2,1,,2026-10-01T11:00:00Z,15,20,2026-10-02T11:00:00Z,,',
        'L1,DRY,D3,1,,2026-10-01T11:00:00Z,50,100,2026-10-02T11:00:00Z,,',
      ),
    );
    const changed = OUTLINE.replaceAll(',Quizzes,40,', ',Assignments,60,')
      .replace(',20,Assignments', ',100,Assignments')
      .replace('2026-10-05T12', '2026-11-30T12');
    const run = await bringIn(runtime, 'outline', changed);
    expect(run.notes).toContain('1 item that 1 learner had worked on was changed');
    // 75 % of what are 100 points now, and 50 of 100.
    expect((await means('L1')).on_graded_work).toBeCloseTo(62.5);
  });
});

describe('by hand', () => {
  it('a score says who and why; a later file does not overwrite it, and the difference is settled by somebody', async () => {
    const jory = await viewerByEmail(runtime, 'instructor@staff.example');
    await scoreByHand(runtime, jory, ...work.pair('L1', 'D2'), { score: '18', why: 'by telephone' });
    await bringIn(runtime, 'results', result('L1,DRY,D2,1,,2026-10-01T11:00:00Z,5,20,2026-11-02T11:00:00Z,,'));
    expect((await stateOf('L1', 'D2')).attempts).toMatchObject([
      { score: 18, other_score: 5, source: 'hand', grader: 'Jory Kestle' },
    ]);
    const { rows } = await changes(runtime, SYSTEM_VIEWER, { course: 'DRY' });
    expect(rows[0]).toMatchObject({ old: null, score: 18, by: 'Jory Kestle', why: 'by telephone' });
    await settleScore(runtime, jory, ...work.pair('L1', 'D2'), 1, 'theirs');
    expect((await stateOf('L1', 'D2')).attempts).toMatchObject([{ score: 5, other_score: null }]);
    await expect(settleScore(runtime, jory, ...work.pair('L1', 'D2'), 1, 'ours')).rejects.toThrow('Nothing to settle');
    await expect(scoreByHand(runtime, jory, ...work.pair('L1', 'D2'), { score: '-1', why: '' })).rejects.toMatchObject({
      errors: [{ field: 'score' }, { field: 'why' }],
    });
  });

  it('an attempt that is dismissed counts for nothing until it is taken back, and both are history', async () => {
    await bringIn(
      runtime,
      'results',
      result(
        'L1,DRY,D2,1,,2026-10-01T11:00:00Z,8,20,2026-10-02T11:00:00Z,,',
        'L1,DRY,D2,2,,2026-10-03T11:00:00Z,16,20,2026-10-03T11:00:00Z,,',
      ),
    );
    await dismissAttempt(runtime, SYSTEM_VIEWER, ...work.pair('L1', 'D2'), true, {
      attempt: '2',
      why: 'not their own',
    });
    expect((await means('L1')).on_graded_work).toBe(40);
    expect((await stateOf('L1', 'D2')).state).toMatchObject({ state: 'started', left: ['40 of 50 %'] });
    await dismissAttempt(runtime, SYSTEM_VIEWER, ...work.pair('L1', 'D2'), false, { attempt: '2', why: 'it was' });
    expect((await means('L1')).on_graded_work).toBe(80);
    await expect(
      dismissAttempt(runtime, SYSTEM_VIEWER, ...work.pair('L1', 'D2'), false, { attempt: '2', why: 'x' }),
    ).rejects.toThrow('No such attempt');
    expect((await changes(runtime, SYSTEM_VIEWER, { course: 'DRY' })).rows.map(({ why }) => why).slice(0, 2)).toEqual([
      'taken back: it was',
      'dismissed: not their own',
    ]);
  });

  it('items are marked for many with a reason, and undone where nobody has changed them since', async () => {
    const cells = ['L1', 'L2', 'L4'].map((learner) => work.pair(learner, 'D3'));
    const deed = await overrideItems(runtime, SYSTEM_VIEWER, cells, { state: 'exempt', reason: 'a storm' });
    expect(deed.changed).toBe(3);
    expect((await stateOf('L1', 'D3')).state.state).toBe('exempt');
    await overrideItems(runtime, SYSTEM_VIEWER, [work.pair('L2', 'D3')], { state: 'done', reason: 'on paper' });
    const without = { ...SYSTEM_VIEWER, all: false };
    await expect(undoChange(runtime, without, deed.batch)).rejects.toThrow();
    await undoChange(runtime, SYSTEM_VIEWER, deed.batch);
    expect([(await stateOf('L1', 'D3')).state.state, (await stateOf('L2', 'D3')).state.state]).toEqual([
      'not_started',
      'done',
    ]);
    await expect(undoChange(runtime, SYSTEM_VIEWER, deed.batch)).rejects.toThrow('Nothing to undo');
    const cleared = await overrideItems(runtime, SYSTEM_VIEWER, [work.pair('L2', 'D3')], {
      state: 'clear',
      reason: 'a slip',
    });
    expect(cleared.changed).toBe(1);
    expect(
      (await overrideItems(runtime, SYSTEM_VIEWER, [work.pair('L2', 'D3')], { state: 'clear', reason: 'a slip' }))
        .changed,
    ).toBe(0);
  });

  it('extensions make a date later, excuse, and are not undone by a file', async () => {
    await expect(
      extendItems(runtime, SYSTEM_VIEWER, [work.pair('L1', 'D3')], { due_at: '2026-10-01', reason: 'x' }),
    ).rejects.toMatchObject({ errors: [{ field: 'due_at' }] });
    await expect(extendItems(runtime, SYSTEM_VIEWER, [work.pair('L1', 'D3')], { reason: 'x' })).rejects.toMatchObject({
      errors: [{ field: 'due_at' }],
    });
    await extendItems(runtime, SYSTEM_VIEWER, [work.pair('L1', 'D3')], { due_at: '2026-12-01T12:00', reason: 'ill' });
    await extendItems(runtime, SYSTEM_VIEWER, [work.pair('L2', 'D3')], { excused: 'yes', reason: 'ill' });
    const file = 'learner_id,course,item_id,due_at,excused,reason\n';
    const run = await bringIn(
      runtime,
      'extensions',
      `${file}L1,DRY,D3,2026-10-20T12:00:00Z,no,other\nL4,DRY,D3,2026-10-01T12:00:00Z,,early\nL4,DRY,D2,,,\nL4,DRY,D3,2026-12-20,no,late\n`,
    );
    expect(counts(run)).toMatchObject({ accepted: 1, duplicate: 1, rejected: 2 });
    expect(run.notes).toContain('1 extension given here by hand stays');
    const rows = new Map(
      (await workDue(runtime, SYSTEM_VIEWER, { ...ALL, course: 'DRY', item: 'D3' })).rows.map((row) => [
        row.enrolled.learner_id,
        row,
      ]),
    );
    expect(rows.get('L1')).toMatchObject({ state: 'not_due', due_at: Date.parse('2026-12-01T12:00:00Z') });
    expect(rows.get('L2')!.state).toBe('exempt');
    expect(rows.get('L4')!.state).toBe('not_due');
  });
});

describe('items and courses', () => {
  it('a changed item says first whom it concerns, and an outline that comes later leaves it', async () => {
    await bringIn(runtime, 'results', result('L1,DRY,D2,1,,2026-10-01T11:00:00Z,8,20,2026-10-02T11:00:00Z,,'));
    const effect = await effectOfItem(runtime, SYSTEM_VIEWER, 'DRY', 'D2', {
      done_when: 'handed_in',
      due_at: '2026-12-24T12:00',
    });
    expect(effect).toEqual({ done: [0, 1], overdue: [2, 0], grades: 0, workedOn: 1 });
    await changeItem(runtime, SYSTEM_VIEWER, 'DRY', 'D2', { done_when: 'handed_in' });
    expect((await stateOf('L1', 'D2')).state.state).toBe('done');
    const run = await bringIn(runtime, 'outline', OUTLINE);
    expect(run.notes).toContain('D2 (done_when)');
    expect((await stateOf('L1', 'D2')).state.state).toBe('done');
    await expect(changeItem(runtime, SYSTEM_VIEWER, 'DRY', 'D2', { done_when: 'wished' })).rejects.toMatchObject({
      errors: [{ field: 'done_when' }],
    });
    await expect(changeItem(runtime, SYSTEM_VIEWER, 'DRY', 'D2', { url: 'javascript:alert(1)' })).rejects.toMatchObject(
      { errors: [{ field: 'url' }] },
    );
  });

  it('a removed item is nowhere, and what was done on it comes back with it', async () => {
    await bringIn(runtime, 'results', result('L1,DRY,D2,1,,2026-10-01T11:00:00Z,8,20,2026-10-02T11:00:00Z,,'));
    expect(await removeItem(runtime, SYSTEM_VIEWER, 'DRY', 'D2', true)).toBe(1);
    expect((await means('L1')).on_graded_work).toBeNull();
    expect((await workDue(runtime, SYSTEM_VIEWER, { ...ALL, item: 'D2' })).total).toBe(0);
    await removeItem(runtime, SYSTEM_VIEWER, 'DRY', 'D2', false);
    expect((await means('L1')).on_graded_work).toBe(40);
  });

  it('a course has a scale, bands and attendance as a category of its own', async () => {
    const set = (name: string, values: Values) => saveCourseSetting(runtime, SYSTEM_VIEWER, 'DRY', name, values);
    await expect(set('bands', { secure: '40', getting: '60' })).rejects.toMatchObject({
      errors: [{ field: 'secure' }],
    });
    await expect(set('scale', { scale: 'A' })).rejects.toMatchObject({ errors: [{ field: 'scale' }] });
    await expect(set('toString', {})).rejects.toThrow(NotFound);
    await set('pass_mark', { pass_mark: '60' });
    await set('bands', { secure: '80', getting: '60' });
    await set('scale', { scale: '40 C, 10 D' });
    await set('attendance', { attendance_weight: '50' });
    await bringIn(
      runtime,
      'sessions',
      'course,group,session_id,title,starts_at,ends_at\nDRY,,S,Live,2026-10-06T17:00:00Z,2026-10-06T18:00:00Z\n',
    );
    await bringIn(runtime, 'marks', 'session_id,learner_id,mark\nS,L1,present\n');
    await bringIn(runtime, 'results', result('L1,DRY,D2,1,,2026-10-01T11:00:00Z,10,20,2026-10-02T11:00:00Z,,'));
    const { page } = await learnerCourse(runtime, SYSTEM_VIEWER, 'L1', 'DRY');
    // 50 % with weight 40, attendance 100 % with weight 50.
    expect(page.means.on_graded_work).toBeCloseTo((100 * (0.5 * 40 + 50)) / 90);
    expect(page).toMatchObject({ passMark: 60, edges: { secure: 80, getting: 60 } });
    expect(page.onScale).toBe(page.means.of_whole_course! >= 40 ? 'C' : 'D');
    await set('shown', { means: 'yes', weights: 'no', nonsense: 'yes' });
    expect((await learnerCourse(runtime, SYSTEM_VIEWER, 'L1', 'DRY')).page.shown).toMatchObject({
      means: true,
      weights: false,
      feedback: false,
    });
    const { settings } = await courseSettings(runtime, SYSTEM_VIEWER, 'DRY');
    expect(Object.fromEntries(settings.map(({ name, stands }) => [name, stands]))).toMatchObject({
      pass_mark: '60 %',
      bands: 'secure from 80 %, getting there from 60 %',
      scale: '40 C, 10 D',
      attendance: 'Attendance counts with weight 50',
      shown: 'the three means',
    });
    // What the form holds can be sent back as it is.
    for (const { name, values } of settings) await set(name, values);
    expect((await courseSettings(runtime, SYSTEM_VIEWER, 'DRY')).settings).toEqual(settings);
    // An empty form takes back what was set.
    await set('bands', {});
    await set('attendance', {});
    expect((await courseSettings(runtime, SYSTEM_VIEWER, 'DRY')).settings).toMatchObject([
      {},
      {},
      { stands: 'secure from 80 %, getting there from 60 %, by the pass mark' },
      {},
      { stands: 'does not count' },
      { name: 'certificate', stands: 'has completed the course {{course}} on {{day}}.' },
      {},
    ]);
  });

  it('hold without due dates, required items or an end, and leave the withdrawn out of what is owed', async () => {
    await bringIn(
      runtime,
      'outline',
      'course,course_title,item_id,item,kind,required,points\nOPEN,Open,O1,Any,quiz,no,10\n',
    );
    await bringIn(
      runtime,
      'roster',
      'learner_id,given_name,family_name,course,group,enrolled_on\nL1,Ines,Marrow,OPEN,A,2026-11-01\n',
    );
    await bringIn(runtime, 'results', result('L1,OPEN,O1,1,,2026-11-02T10:00:00Z,7,10,2026-11-02T10:00:00Z,,'));
    const { rows } = await progress(runtime, SYSTEM_VIEWER, { ...ALL, course: 'OPEN' });
    expect(rows[0]).toMatchObject({
      required: 0,
      share: null,
      pace: { behind: null, finishDay: null },
      courseStatus: 'under_way',
      weeksLeft: null,
    });
    expect((await workDue(runtime, SYSTEM_VIEWER, { ...ALL, learner: 'L5', status: 'all' })).rows).toEqual([]);
    await recalculate(runtime);
    const listed = await courses(runtime, SYSTEM_VIEWER, {});
    expect(listed.rows.find(({ code }) => code === 'OPEN')).toMatchObject({ enrolled: 1, progress: null, overdue: 0 });
    expect(listed.rows.find(({ code }) => code === 'DRY')).toMatchObject({
      enrolled: 3,
      overdue: 6,
      overdueBy: 3,
      toGrade: 0,
    });
    expect(
      (await learnerDetail(runtime, SYSTEM_VIEWER, 'L1')).enrolments.find(({ course }) => course === 'DRY'),
    ).toMatchObject({ progress: 0, overdue: 2, grade: null });
  });
});
