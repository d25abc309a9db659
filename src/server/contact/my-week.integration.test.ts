import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findLearner } from '@/data/people/learners';
import type { Viewer } from '@/data/scope';
import { openDriftView } from '../request/view';
import { SYSTEM_VIEWER } from '../system-viewer';
import { bringIn, testRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { countUnread } from '@/data/contact/replies';
import { readAnswer } from './answers';
import { logCall } from './contact';
import { promise } from './follow-ups';
import { contactedThisWeek, lastWeek } from './my-week';

let runtime: TestRuntime;
let mentor: Viewer;
const ids: Record<string, number> = {};

/** Moves the clock to a time of the day: Tuesday 24 November is the present week, the week before is told of. */
const at = (day: string) => runtime.setNow(`${day}T10:00:00Z`);
const call = async (learner: string, outcome = 'spoke') =>
  logCall(runtime, await openDriftView(runtime, mentor), ids[learner], { outcome, remark: '' });

beforeAll(async () => {
  runtime = await testRuntime('2026-11-24T10:00:00Z', 'UTC');
  await bringIn(runtime, 'outline', 'course,course_title,starts_on\nDRY,Drystone Walling,2026-10-01\n');
  await bringIn(
    runtime,
    'roster',
    `learner_id,given_name,course,enrolled_on\n${['L1', 'L2', 'L3', 'L4'].map((id) => `${id},${id},DRY,2026-10-01\n`).join('')}`,
  );
  await bringIn(
    runtime,
    'staff',
    'staff_id,given_name,email,role,scope_kind,scope\nM1,Mair,mentor@staff.example,mentor,course,DRY\nM2,Jory,other@staff.example,mentor,course,DRY\n',
  );
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
  for (const id of ['L1', 'L2', 'L3', 'L4']) ids[id] = (await findLearner(runtime.db, SYSTEM_VIEWER, id))!;
});
afterAll(() => runtime.close());

describe('my week', () => {
  it('counts each person once, since Monday, and nobody of a colleague’s', async () => {
    expect(await contactedThisWeek(runtime, mentor)).toBe(0);
    expect(await lastWeek(runtime, mentor)).toBeNull();
    at('2026-11-18');
    await call('L1');
    await call('L1', 'no_answer');
    await call('L2', 'left_message');
    at('2026-11-23');
    await call('L3');
    at('2026-11-24');
    await call('L3');
    await call('L4', 'no_answer');
    expect(await contactedThisWeek(runtime, mentor)).toBe(2);
    expect(await contactedThisWeek(runtime, await viewerByEmail(runtime, 'other@staff.example'))).toBe(0);
  });

  it('says of the week before who came back and who is still out', async () => {
    await bringIn(runtime, 'access-log', 'time,learner_id,course,action\n2026-11-20T09:00:00Z,L1,DRY,viewed\n');
    at('2026-11-19');
    await promise(runtime, await openDriftView(runtime, mentor), [ids.L2], { due: '2026-11-30', reason: 'a word' });
    at('2026-11-24');
    expect(await lastWeek(runtime, mentor)).toMatchObject({
      contacted: 2,
      answered: 0,
      cameBack: 1,
      stillOut: 1,
      promised: 1,
    });
  });
});

describe('an answer', () => {
  it('is unread until somebody who may read it says so, and can be unread again', async () => {
    const [draft] = await runtime
      .db('draft')
      .insert({ staff_id: mentor.staffId, created_at: 5, subject: 's', body: 'b', channel: 'email', is_about: 0 });
    const [message] = await runtime.db('message').insert({
      draft_id: draft,
      learner_id: ids.L1,
      staff_id: mentor.staffId,
      address: 'l1@learner.example',
      subject: 's',
      body: 'b',
      state: 'sent',
      attempts: 1,
      next_try_at: 0,
      message_id: '<1@here>',
      created_at: 5,
      sent_at: 6,
      channel: 'email',
      not_before: 0,
    });
    const [reply] = await runtime.db('reply').insert({
      learner_id: ids.L1,
      message_id: message,
      kind: 'answer',
      external_id: 'r1',
      sender: 'l1@learner.example',
      subject: 'Re: s',
      body: 'I want to stop the course',
      received_at: 7,
    });
    expect(await countUnread(runtime.db, mentor)).toBe(1);
    const other = await viewerByEmail(runtime, 'other@staff.example');
    expect(await countUnread(runtime.db, other)).toBe(0);
    await expect(readAnswer(runtime, { ...mentor, courses: [] }, reply, true)).rejects.toThrow('No such answer');
    await readAnswer(runtime, other, reply, true);
    expect(await countUnread(runtime.db, mentor)).toBe(0);
    await readAnswer(runtime, mentor, reply, false);
    expect(await countUnread(runtime.db, mentor)).toBe(1);
  });
});
