import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { NotFound } from '../request/input';
import { bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { makeCaseload } from './caseloads';
import { crewOfLearner } from './crew';

let runtime: TestRuntime;
let lead: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime();
  await bringIn(
    runtime,
    'contacts',
    'learner_id,name,relation,email,phone,may_receive\nL1,Rhona Marrow,family,rhona@home.example,,yes\nL1,Mair Tolland,other,mentor@staff.example,,no\n',
  );
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(() => runtime.close());

const crew = async (learner: string, viewer = lead) =>
  (await crewOfLearner(runtime, viewer, learner)).map(({ name, role, by, may_receive }) => [
    name,
    role,
    by,
    may_receive,
  ]);

describe('the crew of a learner', () => {
  it('is staff by course and group, each once, then contacts with what they may receive', async () => {
    expect(await crew('L1')).toEqual([
      ['Jory Kestle', 'instructor', 'course', null],
      ['Mair Tolland', 'mentor', 'group', null],
      ['Rhona Marrow', 'family', 'contact', true],
      // Somebody may be both: what they may receive is another matter than what they see.
      ['Mair Tolland', 'other', 'contact', false],
    ]);
    const [first] = await crewOfLearner(runtime, lead, 'L1');
    expect(first).toMatchObject({ email: 'instructor@staff.example', courses: ['Drystone Walling'] });
  });

  it('is whoever has them on a caseload, or is set to see them by name', async () => {
    expect(await crew('L3')).toEqual([['Aldo Finch', 'mentor', 'caseload', null]]);
    await makeCaseload(runtime, lead, { name: 'Club', learners: ['L3'] });
    await makeCaseload(runtime, lead, { name: 'Out', rule: { organisation: 'Penhallow' }, left_out: ['L3'] });
    expect(await crew('L3')).toEqual([
      ['Aldo Finch', 'mentor', 'caseload', null],
      ['Hesper Vane', 'lead', 'caseload', null],
    ]);
  });

  it('is nobody who has left, and may be nobody at all', async () => {
    await runtime
      .db('staff')
      .whereIn('email', ['instructor@staff.example', 'one@staff.example'])
      .update({ ended_at: 1 });
    expect((await crew('L1')).map(([name]) => name)).not.toContain('Jory Kestle');
    expect(await crew('L3')).toEqual([]);
  });

  it('is told of the courses that the viewer sees, of learners whom they see', async () => {
    const one = await viewerByEmail(runtime, 'one@staff.example');
    await expect(crew('L1', one)).rejects.toThrow(NotFound);
    await runtime.db('staff_scope').where('staff_id', one.staffId).update({ learner_id: null, kind: 'course' });
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    const net = (await runtime.db('course').where('code', 'NET').first('id'))!.id;
    await runtime.db('staff_scope').where('staff_id', one.staffId).update({ course_id: net });
    expect((await crew('L1')).map(([name]) => name)).toContain('Aldo Finch');
    // Net Work is none of the mentor's.
    expect((await crew('L1', mentor)).map(([name]) => name)).not.toContain('Aldo Finch');
  });

  it('has no names while they are hidden', async () => {
    const hidden = JSON.stringify(await crewOfLearner(runtime, { ...lead, standInKey: 'k' }, 'L1').catch(() => []));
    expect(hidden).not.toMatch(/Rhona|Jory|Mair|staff\.example|home\.example/);
  });
});
