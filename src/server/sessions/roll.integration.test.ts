import { findLearner } from '@/data/people/learners';
import { mergeLearners } from '../people/merging';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { withRaw } from '@/data/db';
import { checkAll } from '../check';
import { learnerDetail } from '../people/learner-detail';
import { readAllPast, recalculate } from '../drift/recalculate';
import { askList, bringIn, counts } from '../testing';
import { ATTENDANCE } from './attendance-list';
import { effectOfMark, endMark, saveMark, saveRules } from './marks';
import { takePresence } from './presence';
import { giveMarks, settleDifference, takeRollBack } from './roll';
import { openSession } from './session';
import { rollsToTake } from './sessions-list';
import { openCast, type Cast } from './testing';
import { changeSession, undoPlanning } from './timetable';

let cast: Cast;
beforeEach(async () => {
  cast = await openCast();
});
afterEach(() => cast.runtime.close());

const marks = (...list: [string, string | undefined, number?][]) => ({
  marks: list.map(([learner_id, mark, seen = 0]) => ({ learner_id, ...(mark && { mark }), seen })),
});
const roll = async (id = 'DRY-A-2') =>
  Object.fromEntries(
    (await openSession(cast.runtime, cast.lead, id)).people.map(({ learner_id, mark, source, differs }) => [
      learner_id,
      { mark, source, differs },
    ]),
  );
const rates = async (values = {}) =>
  (await askList(ATTENDANCE, cast.runtime, cast.lead, { course: 'DRY', ...values })).rows.map(
    ({ learner_id, counted, credit, rate }) => [learner_id, counted, credit, rate],
  );

describe('a roll', () => {
  it('counts once it is taken, and for nobody before', async () => {
    const open = [cast.mentor, cast.instructor, cast.lead, cast.coordinator, cast.one].map((viewer) =>
      rollsToTake(cast.runtime, viewer),
    );
    expect(await Promise.all(open)).toEqual([2, 2, 3, 0, 0]);
    expect(await rates()).toContainEqual(['L1', 0, 0, null]);
    const answer = await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', 'late'], ['L4', 'absent']));
    expect(answer.conflicts).toEqual([]);
    expect(await rates()).toEqual(
      expect.arrayContaining([
        ['L1', 1, 0.75, 0.75],
        ['L4', 1, 0, 0],
      ]),
    );
    expect(await rollsToTake(cast.runtime, cast.mentor)).toBe(1);
    const detail = await learnerDetail(cast.runtime, cast.lead, 'L1');
    expect(detail.enrolments.find(({ course }) => course === 'DRY')!.attendance_rate).toBe(0.75);
  });

  it('changes nothing when the same is sent twice, and keeps every change', async () => {
    await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', 'late']));
    const { changes: known } = await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', 'late']));
    await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', undefined, known.L1]));
    const changes = await cast.runtime.db('attendance_change').orderBy('id').select('old_mark', 'mark');
    expect(changes).toEqual([
      { old_mark: null, mark: 'late' },
      { old_mark: 'late', mark: null },
    ]);
    expect((await roll()).L1.mark).toBeNull();
  });

  it('does not overwrite what a colleague marked meanwhile: both come back, and one is chosen', async () => {
    const first = await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', 'present'], ['L4', 'present']));
    // A device that was away has seen none of it.
    const second = await giveMarks(
      cast.runtime,
      cast.instructor,
      'DRY-A-2',
      marks(['L1', 'absent'], ['L4', 'present']),
    );
    expect(second.conflicts).toMatchObject([
      { learner_id: 'L1', mark: 'present', by: 'Mair Tolland', change: first.changes.L1 },
    ]);
    expect((await roll()).L1.mark).toBe('present');
    await giveMarks(cast.runtime, cast.instructor, 'DRY-A-2', marks(['L1', 'absent', second.conflicts[0].change]));
    expect((await roll()).L1.mark).toBe('absent');
    // Nor what one marked oneself on another device, and a colleague's accepted suggestions.
    const own = await giveMarks(cast.runtime, cast.instructor, 'DRY-A-2', marks(['L1', 'late']));
    expect(own.conflicts).toMatchObject([{ learner_id: 'L1', mark: 'absent' }]);
    await giveMarks(cast.runtime, cast.mentor, 'DRY-A-3', {
      marks: [{ learner_id: 'L4', mark: 'absent', seen: 0, source: 'suggested' }],
    });
    const other = await giveMarks(cast.runtime, cast.instructor, 'DRY-A-3', marks(['L4', 'present']));
    expect(other.conflicts).toMatchObject([{ learner_id: 'L4', mark: 'absent' }]);
  });

  it('takes all but those that cannot be taken, and finds a record that was merged meanwhile', async () => {
    const { runtime, mentor, lead } = cast;
    const [l4, l5] = await Promise.all(['L4', 'L5'].map((id) => findLearner(runtime.db, lead, id)));
    await runtime.db('enrolment').where('learner_id', l5!).update({ status: 'active', ended_day: null });
    await mergeLearners(runtime, lead, l4!, l5!);
    const answer = await giveMarks(
      runtime,
      mentor,
      'DRY-A-2',
      marks(['L1', 'present'], ['L5', 'late'], ['L99', 'present'], ['L2', 'there']),
    );
    expect(Object.keys(answer.changes).sort()).toEqual(['L1', 'L5']);
    expect(answer.refused.map(({ learner_id }) => learner_id).sort()).toEqual(['L2', 'L99']);
    expect(await roll()).toMatchObject({ L1: { mark: 'present' }, L4: { mark: 'late' } });
  });

  it('is for those whose session it is, of those in it', async () => {
    const { runtime, coordinator, one, mentor } = cast;
    for (const viewer of [coordinator, one]) {
      await expect(giveMarks(runtime, viewer, 'DRY-A-2', marks(['L1', 'present']))).rejects.toThrow('No such session');
    }
    await expect(giveMarks(runtime, mentor, 'NET-A-1', marks(['L3', 'present']))).rejects.toThrow('No such session');
    for (const [learner, mark, says] of [
      ['L3', 'present', /nobody of this session/],
      ['L1', 'there', /no mark any more: there are present/],
    ] as const) {
      const { refused } = await giveMarks(runtime, mentor, 'DRY-A-2', marks([learner, mark]));
      expect(refused).toMatchObject([{ learner_id: learner, says: expect.stringMatching(says) }]);
    }
    await expect(giveMarks(runtime, mentor, 'DRY-A-2', { marks: 'x' })).rejects.toThrow(/marks is not a list/);
    await expect(giveMarks(runtime, mentor, 'DRY-A-2', { marks: [{ learner_id: 'L1', seen: 'x' }] })).rejects.toThrow(
      /marks.0.seen/,
    );
  });

  it('is taken back whole, and its history stays', async () => {
    await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', 'late'], ['L4', 'absent']));
    await takeRollBack(cast.runtime, cast.mentor, 'DRY-A-2');
    expect(await rates()).toContainEqual(['L1', 0, 0, null]);
    expect(await rollsToTake(cast.runtime, cast.mentor)).toBe(2);
    expect(await cast.runtime.db('attendance_change')).toHaveLength(4);
  });
});

describe('marks of a file', () => {
  it('do not overwrite a mark set by hand: the difference stands beside it until it is settled', async () => {
    await giveMarks(cast.runtime, cast.mentor, 'DRY-A-2', marks(['L1', 'late']));
    const file =
      'session_id,learner_id,mark,remark\nDRY-A-2,L1,absent,\nDRY-A-2,L4,Present,by file\nDRY-A-2,L3,present,\nX,L1,present,\nDRY-A-2,L1,dancing,\n';
    expect(counts(await bringIn(cast.runtime, 'marks', file))).toMatchObject({ accepted: 2, rejected: 3 });
    expect(await roll()).toMatchObject({
      L1: { mark: 'late', differs: 'absent' },
      L4: { mark: 'present', source: 'file' },
    });
    expect(counts(await bringIn(cast.runtime, 'marks', file))).toMatchObject({ accepted: 0, duplicate: 2 });
    await settleDifference(cast.runtime, cast.mentor, 'DRY-A-2', 'L1', 'theirs');
    expect((await roll()).L1).toMatchObject({ mark: 'absent', differs: null, source: 'hand' });
  });
});

describe('own marks', () => {
  it('say what a change does to rates before it is kept', async () => {
    const { runtime, lead, mentor } = cast;
    await giveMarks(runtime, mentor, 'DRY-A-2', marks(['L1', 'late'], ['L4', 'absent']));
    const form = { label: 'late', credit: '0.5', counts: 'yes' };
    expect(await effectOfMark(runtime, lead, 'late', form)).toMatchObject({
      learners: 1,
      of: 2,
      before: 0.375,
      after: 0.25,
      most: [{ learner_id: 'L1' }],
    });
    expect(await rates()).toContainEqual(['L1', 1, 0.75, 0.75]);
    await saveMark(runtime, lead, 'late', form);
    expect(await rates()).toContainEqual(['L1', 1, 0.5, 0.5]);
    await saveMark(runtime, lead, 'late', { ...form, counts: 'no' });
    expect(await rates()).toContainEqual(['L1', 0, 0, null]);
  });

  it('are added, ended and checked; leads alone', async () => {
    const { runtime, lead, mentor } = cast;
    await saveMark(runtime, lead, null, { label: 'Left early', credit: '.25', counts: 'yes' });
    await giveMarks(runtime, mentor, 'DRY-A-2', marks(['L1', 'left_early']));
    expect(await rates()).toContainEqual(['L1', 1, 0.25, 0.25]);
    await endMark(runtime, lead, 'left_early', true);
    const { refused } = await giveMarks(runtime, mentor, 'DRY-A-2', marks(['L4', 'left_early']));
    expect(refused).toMatchObject([{ learner_id: 'L4' }]);
    expect(await rates()).toContainEqual(['L1', 1, 0.25, 0.25]);
    expect(await runtime.db('audit').where('what', 'ended a mark').first()).toMatchObject({ subject: 'Left early' });
    await expect(endMark(runtime, lead, 'present', true)).rejects.toThrow(/every roll needs/);
    await expect(saveMark(runtime, lead, null, { label: 'LATE', credit: '1', counts: 'yes' })).rejects.toThrow(
      /that of another mark/,
    );
    await expect(saveMark(runtime, lead, null, { label: 'x', credit: '1.5', counts: 'yes' })).rejects.toThrow(
      /credit is not a share/,
    );
    await expect(saveMark(runtime, mentor, null, { label: 'x', credit: '1', counts: 'yes' })).rejects.toThrow();
  });

  it('have lines of a course’s own', async () => {
    const { runtime, instructor, mentor } = cast;
    const form = { absent_under: '20', present_from: '90', grace_minutes: '5', late_after: '15' };
    await expect(saveRules(runtime, mentor, 'DRY', form)).rejects.toThrow('No such course');
    await expect(saveRules(runtime, instructor, 'DRY', { ...form, present_from: '10' })).rejects.toThrow(
      /present_from does not lie above/,
    );
    await saveRules(runtime, instructor, 'DRY', form);
    expect((await openSession(runtime, instructor, 'DRY-A-2')).rules).toEqual({
      absentUnder: 0.2,
      presentFrom: 0.9,
      graceMinutes: 5,
      lateAfter: 15,
    });
  });
});

describe('drift', () => {
  it('reads missed sessions of rolls and of presence, and the figures stay what they would be made anew', async () => {
    const { runtime, mentor } = cast;
    await recalculate(runtime);
    await giveMarks(runtime, mentor, 'DRY-A-1', marks(['L1', 'absent'], ['L4', 'present']));
    await giveMarks(runtime, mentor, 'DRY-A-2', marks(['L1', 'absent'], ['L4', 'absent']));
    await recalculate(runtime);
    const reasons = async (id: string) => {
      const { enrolments } = await learnerDetail(runtime, cast.lead, id);
      const own = enrolments.find(({ course }) => course === 'DRY')!;
      return (own.reasons as { factor: string; value: number; says: string }[]).find(
        ({ factor }) => factor === 'sessions',
      );
    };
    expect(await reasons('L1')).toMatchObject({ value: 1, says: 'Missed the last 2 sessions · none of 2 attended' });
    expect(await reasons('L4')).toMatchObject({ value: 0.5, says: 'Missed the last session · 1 of 2 attended' });
    expect((await checkAll(runtime)).problems).toEqual([]);
    const stale = () =>
      withRaw(runtime.db, (raw) => raw.prepare('SELECT count(*) FROM drift_stale WHERE recent = 1').pluck().get());
    expect(await stale()).toBe(0);
    const whole = async () => {
      await recalculate(runtime);
      await readAllPast(runtime);
      return (await checkAll(runtime)).problems;
    };
    // One that is moved leaves a gap where it was, and a mark where it is.
    const form = { title: 'Week 2', starts: '18:30', ends: '20:00', mode: 'online', reaches: 'this' };
    const moved = await changeSession(runtime, mentor, 'DRY-A-2', { ...form, from: '2026-11-20' });
    expect(await stale()).toBeGreaterThan(0);
    expect(await whole()).toEqual([]);
    await undoPlanning(runtime, mentor, moved.change);
    expect(await whole()).toEqual([]);
    // Presence without a roll counts; a roll that is taken of one alone takes the others' away.
    await takeRollBack(runtime, mentor, 'DRY-A-2');
    await takePresence(runtime, mentor, 'DRY-A-2', [{ person: 'L4', entered: '2026-11-17T18:30:00Z' }]);
    expect(await whole()).toEqual([]);
    expect(await reasons('L1')).toMatchObject({ value: 1 });
    expect(await reasons('L4')).toMatchObject({ value: 0 });
    await giveMarks(runtime, mentor, 'DRY-A-2', { ...marks(['L4', 'present']), replace: true });
    expect(await whole()).toEqual([]);
    expect(await reasons('L1')).toBeUndefined();
    // Of today's session that is on, nothing has to be read again and again.
    await takePresence(runtime, mentor, 'DRY-A-3', [{ person: 'L1', entered: '2026-11-24T09:00:00Z' }]);
    expect(await stale()).toBe(0);
    expect(await whole()).toEqual([]);
  });
});
