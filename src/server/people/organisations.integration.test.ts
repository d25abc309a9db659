import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { recalculate } from '../drift/recalculate';
import { InvalidInput } from '../request/input';
import { askList, bringIn, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import { makeCaseload } from './caseloads';
import { ORGANISATIONS } from './organisations-list';

let runtime: TestRuntime;
let lead: Viewer;
beforeEach(async () => {
  runtime = await smallRuntime([
    // Ines has done all of Net Work, and something of Drystone; Tobias something; Halima nothing.
    '2026-11-20T10:10:00Z,L1,NET,N1,opened',
    '2026-11-20T10:00:00Z,L1,DRY,D1,opened',
    '2026-11-23T10:00:00Z,L2,DRY,D1,opened',
  ]);
  await bringIn(
    runtime,
    'sessions',
    'course,group,session_id,title,starts_at,ends_at,mode\nDRY,,S1,Walls,2026-11-10T10:00:00Z,2026-11-10T11:00:00Z,online\nDRY,,S2,More,2026-11-11T10:00:00Z,2026-11-11T11:00:00Z,online\n',
  );
  await bringIn(
    runtime,
    'marks',
    'session_id,learner_id,mark\nS1,L1,present\nS2,L1,absent\nS1,L2,late\nS2,L2,excused\nS1,L4,absent\n',
  );
  await runtime.db('session').update({ roll_at: 1 });
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
});
afterEach(() => runtime.close());

const rows = async (values = {}, viewer = lead) => (await askList(ORGANISATIONS, runtime, viewer, values)).rows;

describe('partner organisations', () => {
  it('count each enrolment in one place, each person once, and marks that count', async () => {
    const credit = (await runtime.db('mark').where('code', 'late').first('credit'))!.credit;
    expect(await rows()).toEqual([
      {
        organisation: 'Norrick',
        people: 2,
        courses: 2,
        not_started: 0,
        under_way: 1,
        completed: 1,
        certified: 0,
        ended: 1,
        attendance_rate: 0.5,
        bands: expect.objectContaining({ adrift: expect.any(Number) }),
      },
      {
        organisation: 'Penhallow',
        people: 2,
        courses: 2,
        not_started: 1,
        under_way: 1,
        completed: 0,
        certified: 0,
        ended: 0,
        attendance_rate: credit,
        bands: expect.anything(),
      },
    ]);
    for (const { bands, organisation } of await rows())
      expect(Object.values(bands as Record<string, number>).reduce((a, b) => a + b)).toBe(
        organisation === 'Norrick' ? 1 : 2,
      );
  });

  it('certifies whoever reaches the pass mark of a course that has one, and no other', async () => {
    await runtime.db('course').where('code', 'NET').update({ pass_mark: 60 });
    const [first] = await rows();
    expect(first).toMatchObject({ completed: 1, certified: 0 });
    await runtime.db('enrolment_progress').whereNotNull('completed_at').update({ of_whole: 60 });
    expect((await rows())[0]).toMatchObject({ completed: 0, certified: 1 });
  });

  it('take the roster’s word that somebody completed or left', async () => {
    await runtime.db('enrolment').where('status', 'withdrawn').update({ status: 'completed' });
    expect((await rows())[0]).toMatchObject({ completed: 2, ended: 0 });
  });

  it('are those whose people one sees, as far as one sees them', async () => {
    const norrick = await viewerByEmail(runtime, 'norrick@partner.example');
    const own = await rows({}, norrick);
    expect(own.map(({ organisation }) => organisation)).toEqual(['Norrick']);
    expect(own[0]).toEqual((await rows())[0]);
    const mentor = await viewerByEmail(runtime, 'mentor@staff.example');
    // Drystone, group A, alone: what Ines does in Net Work is not told.
    expect(await rows({}, mentor)).toMatchObject([{ organisation: 'Norrick', courses: 1, completed: 0, under_way: 1 }]);
    expect(await rows({ course: 'NET' })).toMatchObject([{ people: 1 }, { people: 1, not_started: 1 }]);
  });

  it('can be narrowed to a caseload, and are sorted with no figure last', async () => {
    const id = await makeCaseload(runtime, lead, { name: 'One', learners: ['L3'] });
    expect(await rows({ caseload: String(id) })).toMatchObject([
      { organisation: 'Penhallow', people: 1, attendance_rate: null, not_started: 1 },
    ]);
    const names = async (sort: string) => (await rows({ sort })).map(({ organisation }) => organisation);
    expect(await names('-name')).toEqual(['Penhallow', 'Norrick']);
    expect(await names('-not_started')).toEqual(['Penhallow', 'Norrick']);
    expect(await names('-ended')).toEqual(['Norrick', 'Penhallow']);
    await runtime
      .db('attendance')
      .whereIn('learner_id', runtime.db('learner').where('external_id', 'L2').select('id'))
      .delete();
    expect(await names('attendance')).toEqual(['Norrick', 'Penhallow']);
    expect(await names('-attendance')).toEqual(['Norrick', 'Penhallow']);
    await expect(rows({ sort: 'constructor' })).rejects.toThrow(InvalidInput);
  });

  it('leave out whoever is on their own, and a record that was merged', async () => {
    expect((await rows()).flatMap(({ organisation }) => organisation)).not.toContain(null);
    const all = await rows();
    expect(all.reduce((sum, { people }) => sum + Number(people), 0)).toBe(4);
  });
});
