import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openView } from '../request/view';
import { progress } from '../completion/progress-list';
import { historyOf } from '../completion/history';
import { learnerCourse } from '../completion/learner-course';
import { changeItem } from '../courses/course-rules';
import { changes } from '../grades/changes-list';
import { gradesInView, groupsCompared } from '../grades/analysis';
import { grades } from '../grades/grades-list';
import { scoreByHand } from '../grades/grading';
import { questions } from '../grades/questions-list';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, viewerByEmail, type TestRuntime } from '../testing';
import { extendItems, overrideItems } from './completion-changes';
import { overdueLists, workDue } from './work-due-list';
import { toGrade } from './to-grade-list';

import { ALL, openDryWork, result, type DryWork } from './testing';

let work: DryWork;
let runtime: TestRuntime;
beforeEach(async () => {
  work = await openDryWork();
  runtime = work.runtime;
});
afterEach(() => work.close());

describe('who sees and does what', () => {
  const bring = () =>
    bringIn(
      runtime,
      'results',
      result(
        'L1,DRY,D3,1,,2026-10-11T11:00:00Z,,100,,,',
        'L2,DRY,D3,1,,2026-10-10T11:00:00Z,70,100,2026-10-12T11:00:00Z,S3,Well done Tobias',
      ),
    );

  it('each reads their own learners alone, and a partner’s contact changes nothing', async () => {
    await bring();
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const partner = await viewerByEmail(runtime, 'norrick@partner.example');
    const names = (rows: { enrolled: { learner_id: string } }[]) =>
      [...new Set(rows.map(({ enrolled }) => enrolled.learner_id))].sort();
    expect(names((await progress(runtime, mentor, ALL)).rows)).toEqual(['L1', 'L4']);
    expect(names((await grades(runtime, partner, ALL)).rows)).toEqual(['L1']);
    expect(names((await workDue(runtime, mentor, ALL)).rows)).toEqual(['L1', 'L4']);
    expect((await toGrade(runtime, partner, ALL)).rows.map(({ learner_id }) => learner_id)).toEqual(['L1']);
    expect((await changes(runtime, mentor, ALL)).rows).toEqual([]);
    await expect(learnerCourse(runtime, mentor, 'L2', 'DRY')).rejects.toThrow('No such learner');
    await expect(workDue(runtime, mentor, { learner: 'L2' })).rejects.toThrow('No such learner');
    await expect(
      overrideItems(runtime, mentor, [work.pair('L2', 'D3')], { state: 'done', reason: 'x' }),
    ).rejects.toThrow('No such learner');
    await expect(
      overrideItems(runtime, partner, [work.pair('L1', 'D3')], { state: 'done', reason: 'x' }),
    ).rejects.toThrow();
    await expect(scoreByHand(runtime, mentor, ...work.pair('L2', 'D3'), { score: '1', why: 'x' })).rejects.toThrow(
      'No such learner',
    );
    // A mentor of one group does not say how the course grades.
    await expect(changeItem(runtime, mentor, 'DRY', 'D2', { points: '5' })).rejects.toThrow('No such course');
    for (const hostile of [null, 'x', [[1]], [['1', '2']], [[1.5, 2]], Array.from({ length: 20_001 }, () => [1, 2])])
      await expect(overrideItems(runtime, SYSTEM_VIEWER, hostile, { state: 'done', reason: 'x' })).rejects.toThrow();
  });

  it('covers names, and the words that may hold them', async () => {
    await bring();
    await extendItems(runtime, SYSTEM_VIEWER, [work.pair('L2', 'D4')], { excused: 'yes', reason: 'Tobias is ill' });
    const namesHidden = { ...(await viewerByEmail(runtime, 'instructor@staff.example')), standInKey: 'key' };
    const { rows } = await grades(runtime, namesHidden, ALL);
    const text = JSON.stringify([
      rows.map(({ enrolled }) => enrolled),
      (await changes(runtime, namesHidden, ALL)).rows,
      (await toGrade(runtime, namesHidden, ALL)).rows,
    ]);
    expect(text).not.toMatch(/Tobias|Quill|"L2"/);
    const own = rows.find(({ grades: all }) => all.some(({ counting }) => counting !== null))!.enrolled.learner_id;
    const { page } = await learnerCourse(runtime, namesHidden, own, 'DRY');
    expect(JSON.stringify(page)).not.toMatch(/Tobias|Quill|Jory/);
  });

  it('a message has each one’s own list of what is overdue, and nobody else’s', async () => {
    await bring();
    const view = await openView(runtime, SYSTEM_VIEWER);
    const lists = await overdueLists(runtime, view, ['L1', 'L2', 'L3', 'L4'].map(work.learner));
    expect(lists.get(work.learner('L1'))).toBe('– Quiz (DRY), due Mon 5 Oct');
    expect(lists.get(work.learner('L4'))).toBe('– Quiz (DRY), due Mon 5 Oct\n– Sheet (DRY), due Mon 12 Oct');
    expect(lists.has(work.learner('L3'))).toBe(false);
  });
});

describe('over time', () => {
  it('as of a past day nothing is known that came later, and the history agrees with it', async () => {
    await bringIn(
      runtime,
      'results',
      result('L1,DRY,D2,1,2026-10-01T10:00:00Z,2026-10-01T11:00:00Z,16,20,2026-10-20T11:00:00Z,,'),
    );
    const at = async (as_of: string) => {
      const { rows } = await grades(runtime, SYSTEM_VIEWER, { ...ALL, course: 'DRY', as_of });
      const own = rows.find(({ enrolled }) => enrolled.learner_id === 'L1')!;
      const done = (await progress(runtime, SYSTEM_VIEWER, { ...ALL, course: 'DRY', as_of })).rows.find(
        ({ enrolled }) => enrolled.learner_id === 'L1',
      )!;
      const waits = (await toGrade(runtime, SYSTEM_VIEWER, { ...ALL, as_of })).total;
      return [own.means.on_graded_work, done.done, waits];
    };
    expect(await at('2026-10-10')).toEqual([null, 0, 1]);
    expect(await at('2026-10-20')).toEqual([80, 1, 0]);
    const view = await openView(runtime, SYSTEM_VIEWER, { course: 'DRY' });
    const points = await historyOf(runtime, view, work.learner('L1'), view.segment.courseId!);
    expect(points!.map(({ onGradedWork }) => onGradedWork)).toEqual([null, null, null, 80, 80, 80, 80, 80, 80]);
    expect(points!.map(({ progress: share }) => share).slice(2, 4)).toEqual([0, 0.25]);
    // No log has come: minutes are not known, which is not 0.
    expect(points!.every(({ minutes, attendanceRate }) => minutes === null && attendanceRate === null)).toBe(true);
  });

  it('groups are compared with themselves and everybody, and a question’s right answer may change', async () => {
    await bringIn(
      runtime,
      'results',
      result(
        'L1,DRY,D3,1,,2026-10-11T11:00:00Z,40,100,2026-10-12T11:00:00Z,,',
        'L2,DRY,D3,1,,2026-10-10T11:00:00Z,70,100,2026-10-12T11:00:00Z,,',
      ),
    );
    const { rows } = await groupsCompared(runtime, SYSTEM_VIEWER, { course: 'DRY' });
    expect(rows.map(({ group, n, mean, low }) => [group, n, mean, low])).toEqual([
      ['Group A', 1, 40, null],
      ['Group B', 1, 70, null],
      ['everybody', 2, 55, null],
    ]);
    expect(await gradesInView(runtime, await openView(runtime, SYSTEM_VIEWER, { course: 'NET' }))).toHaveLength(2);
    const head =
      'learner_id,course,item_id,attempt,question_id,question,answer,right_answer,score,points,answered_at\n';
    await bringIn(
      runtime,
      'responses',
      `${head}L1,DRY,D2,1,q1,What?,A,A,1,1,2026-10-01T10:00:00Z\nL2,DRY,D2,1,q1,What?,A,B,0,1,2026-10-05T10:00:00Z\nL2,DRY,D2,2,q1,What?,B,B,1,1,2026-10-06T10:00:00Z\nL4,DRY,D2,x,q1,What?,B,B,1,1,\n`,
    );
    const asked = async (attempts: string) =>
      (await questions(runtime, SYSTEM_VIEWER, { course: 'DRY', attempts })).rows[0];
    expect((await asked('first')).figures).toMatchObject({ n: 2, facility: 0.5, rightAnswers: ['A', 'B'] });
    expect((await asked('last')).figures).toMatchObject({
      facility: 1,
      answers: [
        { answer: 'A', isRight: true },
        { answer: 'B', isRight: true },
      ],
    });
    await expect(questions(runtime, SYSTEM_VIEWER, {})).rejects.toMatchObject({ errors: [{ field: 'course' }] });
  });
});
