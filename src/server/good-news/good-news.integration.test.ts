import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { PRAISE_TO_MANY } from '@/core/good-news/good-news';
import { listTemplates } from '@/data/contact/templates';
import { saveTemplate } from '../contact/templates';
import { openDraft, sendDraft, startDraft } from '../contact/write';
import { openDriftView } from '../request/view';
import { readAllPast, recalculate } from '../drift/recalculate';
import { InvalidInput, NotFound } from '../request/input';
import { askList, bringIn, logOf, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { GOOD_NEWS_LIST } from './good-news-list';

const OUTLINE = `course,course_title,starts_on,ends_on,unit,item_id,item,kind,required,points,category
DRY,Drystone Walling,2026-09-01,2026-12-21,Stone,D1,Read,page,yes,,
DRY,Drystone Walling,2026-09-01,2026-12-21,Stone,D2,Look,page,yes,,
DRY,Drystone Walling,2026-09-01,2026-12-21,Wall,D3,Build,page,yes,,
DRY,Drystone Walling,2026-09-01,2026-12-21,Wall,Q1,Quiz 1,quiz,no,10,Quizzes
DRY,Drystone Walling,2026-09-01,2026-12-21,Wall,Q2,Quiz 2,quiz,no,10,Quizzes
DRY,Drystone Walling,2026-09-01,2026-12-21,Wall,Q3,Quiz 3,quiz,no,20,Quizzes
DRY,Drystone Walling,2026-09-01,2026-12-21,Wall,T1,Talk,discussion,no,,
`;
const ROSTER = `learner_id,given_name,family_name,organisation,course,group,enrolled_on,status
L1,Ines,Marrow,Norrick,DRY,A,2026-09-01,active
L2,Tobias,Quill,Penhallow,DRY,B,2026-09-01,active
L3,Halima,Okoro,,DRY,B,2026-09-01,active
L4,Petra,Sandoval,,DRY,B,2026-09-01,active
L5,Wynn,Calloway,,DRY,B,2026-09-01,active
`;
const STAFF = `staff_id,given_name,family_name,email,role,scope_kind,scope
S1,Hesper,Vane,lead@staff.example,lead,all,
S2,Mair,Tolland,mentor@staff.example,mentor,group,DRY/A
`;

let runtime: TestRuntime;
let lead: Viewer;
beforeEach(async () => {
  runtime = await testRuntime();
  await bringIn(runtime, 'outline', OUTLINE);
  await bringIn(runtime, 'roster', ROSTER);
  await bringIn(runtime, 'staff', STAFF);
  await bringIn(
    runtime,
    'access-log',
    logOf([
      // Ines: both of the first unit on 3 and 4 November, all of it on the 20th.
      '2026-11-03T10:00:00Z,L1,DRY,D1,opened',
      '2026-11-04T10:00:00Z,L1,DRY,D2,opened',
      '2026-11-20T10:00:00Z,L1,DRY,D3,opened',
      // Tobias: away for eight whole days, back on the 10th, on three days of the seven.
      '2026-11-01T10:00:00Z,L2,DRY,D1,opened',
      '2026-11-10T10:00:00Z,L2,DRY,D1,opened',
      '2026-11-12T10:00:00Z,L2,DRY,D1,opened',
      '2026-11-16T10:00:00Z,L2,DRY,D1,opened',
      // Halima wrote twice.
      '2026-11-05T10:00:00Z,L3,DRY,T1,posted',
      '2026-11-06T10:00:00Z,L3,DRY,T1,replied',
    ]),
  );
  await bringIn(
    runtime,
    'results',
    `learner_id,course,item_id,attempt,submitted_at,score,points,graded_at
L4,DRY,Q1,1,2026-10-01T10:00:00Z,5,10,2026-10-02T10:00:00Z
L4,DRY,Q2,1,2026-10-08T10:00:00Z,6,10,2026-10-09T10:00:00Z
L4,DRY,Q3,1,2026-11-08T10:00:00Z,14,20,2026-11-18T23:30:00Z
`,
  );
  const days = [2, 3, 4, 5, 6, 9];
  await bringIn(
    runtime,
    'sessions',
    `course,group,session_id,title,starts_at,ends_at,mode\n${days.map((day) => `DRY,,S${day},Walls ${day},2026-11-0${day}T18:00:00Z,2026-11-0${day}T19:00:00Z,online`).join('\n')}\n`,
  );
  await bringIn(
    runtime,
    'marks',
    `session_id,learner_id,mark\n${days.map((day, at) => `S${day},L5,${at === 0 ? 'absent' : 'present'}`).join('\n')}\n`,
  );
  await runtime.db('session').update({ roll_at: 1 });
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(() => runtime.close());

const ask = async (values = {}, viewer = lead) =>
  (await askList(GOOD_NEWS_LIST, runtime, viewer, values)).rows.map(({ learner_id, what, on }) =>
    [learner_id, what, on].join(' '),
  );

describe('good news', () => {
  it('is each kind on its day, newest first', async () => {
    expect(await ask()).toEqual([
      'L1 course_finished 2026-11-20',
      'L4 best_yet 2026-11-18',
      'L2 came_back 2026-11-16',
      'L5 every_session_again 2026-11-09',
      'L3 first_post 2026-11-05',
      'L1 unit_finished 2026-11-04',
    ]);
  });

  it('says its evidence, and names the learner by what the viewer may see', async () => {
    const { rows } = await askList(GOOD_NEWS_LIST, runtime, lead, { what: 'best_yet' });
    expect(rows).toEqual([
      {
        learner_id: 'L4',
        name: 'Petra Sandoval',
        course: 'DRY',
        what: 'best_yet',
        on: '2026-11-18',
        evidence: { item_id: 'Q3', item: 'Quiz 3', percent: 70, before: 60 },
        says: '70 % in “Quiz 3”; the best before was 60 %.',
      },
    ]);
    const hidden = await askList(GOOD_NEWS_LIST, runtime, { ...lead, standInKey: 'k' }, {});
    expect(JSON.stringify(hidden.rows)).not.toMatch(/Petra|Sandoval|"L4"/);
  });

  it('tells of drift that fell, by its edge', async () => {
    await readAllPast(runtime);
    const enrolment = (await runtime
      .db('enrolment')
      .join('learner', 'learner.id', 'enrolment.learner_id')
      .where('external_id', 'L3')
      .first('enrolment.id'))!.id;
    const set = (date: string, score: number) => {
      const day = Date.parse(date) / 86_400_000;
      return runtime.db('drift_reading').where({ enrolment_id: enrolment, day }).update({ score });
    };
    await runtime.db('drift_reading').where({ enrolment_id: enrolment }).update({ score: 20 });
    await set('2026-11-06', 60);
    expect(await ask({ learner: 'L3' })).toEqual(['L3 drift_down 2026-11-20', 'L3 first_post 2026-11-05']);
    await set('2026-11-20', 31);
    expect(await ask({ learner: 'L3' })).toEqual(['L3 first_post 2026-11-05']);
  });

  it('is cut to some days, a learner, a course, and to what the viewer sees', async () => {
    expect(await ask({ from: '2026-11-16', to: '2026-11-18' })).toEqual([
      'L4 best_yet 2026-11-18',
      'L2 came_back 2026-11-16',
    ]);
    expect(await ask({ learner: 'L2' })).toEqual(['L2 came_back 2026-11-16']);
    expect(await ask({ organisation: 'Norrick' })).toHaveLength(2);
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    expect(await ask({}, mentor)).toEqual(['L1 course_finished 2026-11-20', 'L1 unit_finished 2026-11-04']);
    await expect(ask({ learner: 'L2' }, mentor)).rejects.toThrow(NotFound);
    await expect(ask({ course: 'NOPE' })).rejects.toThrow(NotFound);
    await expect(ask({ from: '2026-11-18', to: '2026-11-16' })).rejects.toThrow(InvalidInput);
    await expect(ask({ what: 'constructor' })).rejects.toThrow(InvalidInput);
  });

  it('is not told before its day, and no more once what it was for is taken back', async () => {
    runtime.setNow('2026-11-15T12:00:00Z');
    expect(await ask()).not.toContain('L2 came_back 2026-11-16');
    runtime.setNow('2026-11-24T09:10:00Z');
    await runtime.db('attempt').where('score', 14).update({ dismissed_at: 1 });
    expect(await ask({ learner: 'L4' })).toEqual([]);
    // A new item is required of the unit: it is not finished any more.
    await bringIn(
      runtime,
      'outline',
      OUTLINE.split('\n')[0] + '\nDRY,Drystone Walling,2026-09-01,2026-12-21,Stone,D9,More,page,yes,,\n',
    );
    await recalculate(runtime);
    expect(await ask({ learner: 'L1' })).toEqual(['L1 unit_finished 2026-11-20']);
  });

  it('goes on page by page', async () => {
    const first = await askList(GOOD_NEWS_LIST, runtime, lead, { limit: '4' });
    expect([first.rows.length, first.total]).toEqual([4, 6]);
    const second = await askList(GOOD_NEWS_LIST, runtime, lead, { limit: '4', cursor: first.next! });
    expect([second.rows.length, second.next]).toEqual([2, null]);
  });
});

describe('praise of several', () => {
  it('names what each did well last, and stops whoever did nothing of late', async () => {
    const ids = await runtime.db('learner').orderBy('external_id').pluck('id');
    const view = await openDriftView(runtime, lead);
    const draft = await startDraft(runtime, view, ids, { ...PRAISE_TO_MANY, is_praise: 'yes' });
    const { recipients } = await openDraft(runtime, view, draft);
    const read = recipients.map(({ learnerId, facts }) => [learnerId, facts.good_news]);
    expect(read.sort()).toEqual([
      ['L1', 'You have done everything that Drystone Walling requires. Well done.'],
      ['L2', expect.stringContaining('good to see you back in Drystone Walling')],
      ['L3', 'Thank you for what you wrote in “Talk”. The others gain by it.'],
      ['L4', '“Quiz 3” is your best work in Drystone Walling so far, by some way.'],
      ['L5', expect.stringContaining('each of the last five sessions')],
    ]);
    // Five weeks later it is no news any more, and nothing goes out with a gap in it.
    runtime.setNow('2026-12-29T09:10:00Z');
    await runtime.db('learner').update({ email: 'x@learner.example' });
    const late = await sendDraft(runtime, await openDriftView(runtime, lead), draft, { ...PRAISE_TO_MANY }, []);
    expect(late).toMatchObject({ outcome: 'nobody', stopped: { length: 5 } });
  });

  it('has templates of its own, which no other message is offered', async () => {
    const own = { ...PRAISE_TO_MANY, name: 'Well done' };
    await saveTemplate(runtime, lead, null, { ...own, is_praise: 'yes' });
    await saveTemplate(runtime, lead, null, { ...own, name: 'Hello' });
    expect((await listTemplates(runtime.db, lead)).map(({ name, is_praise }) => [name, is_praise])).toEqual([
      ['Well done', 1],
      ['Hello', 0],
    ]);
    await expect(saveTemplate(runtime, lead, null, { ...own, is_praise: 'perhaps' })).rejects.toThrow(InvalidInput);
  });
});
