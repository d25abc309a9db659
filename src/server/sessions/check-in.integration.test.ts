import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { codeAt } from '@/core/sessions/check-in';
import { acceptRefused, atTheDoor, checkIn, checkInScreen } from './check-in';
import { giveMarks } from './roll';
import { openSession } from './session';
import { openCast, type Cast } from './testing';

let cast: Cast;
let secret: string;
beforeEach(async () => {
  cast = await openCast();
  // Half past eight is before the session of nine; it ends at ten.
  [secret] = await cast.runtime.db('session').where('external_id', 'DRY-A-3').pluck('secret');
  cast.runtime.setNow('2026-11-24T08:55:00Z');
});
afterEach(() => cast.runtime.close());

const come = (learnerId: string, device: string, code?: string, address = 'classroom') =>
  checkIn(cast.runtime, 'DRY-A-3', {
    learnerId,
    device,
    address,
    code: code ?? codeAt(secret, cast.runtime.clock.now()),
  });
const mark = async (id: string) =>
  (await openSession(cast.runtime, cast.lead, 'DRY-A-3')).people.find((one) => one.learner_id === id);

describe('checking in', () => {
  it('is in time before the start, late after its minutes, and over at the end', async () => {
    expect(await come('l1', 'a')).toEqual({ ok: true, says: 'You are in, 08:55' });
    expect(await mark('L1')).toMatchObject({ mark: 'present', source: 'check_in' });
    cast.runtime.setNow('2026-11-24T09:15:00Z');
    expect(await come('L1', 'a')).toEqual({ ok: true, says: 'You are in, 08:55' });
    expect(await come('L4', 'b')).toEqual({ ok: true, says: 'You are in, 09:15, late' });
    expect(await mark('L4')).toMatchObject({ mark: 'late' });
    cast.runtime.setNow('2026-11-24T10:00:00Z');
    expect(await come('L4', 'b')).toMatchObject({ ok: false, says: expect.stringContaining('ended at 10:00') });
    cast.runtime.setNow('2026-11-24T08:49:59Z');
    expect(await come('L4', 'b')).toMatchObject({ ok: false, says: expect.stringContaining('from 08:50') });
  });

  it('answers an unknown id, one that is not expected and a wrong code alike', async () => {
    const answers = await Promise.all([
      come('L99', 'a'),
      come('L3', 'b'),
      come('L2', 'c'),
      come('L5', 'd'),
      come('L1', 'e', '000000'),
      come('', 'f'),
      come('L1', 'g', ''),
    ]);
    expect(new Set(answers.map(({ says }) => says)).size).toBe(1);
    expect(answers.every(({ ok }) => !ok)).toBe(true);
    expect(await cast.runtime.db('check_in')).toEqual([]);
  });

  it('takes the code of the step before, and pauses a device after five wrong ones', async () => {
    const code = codeAt(secret, cast.runtime.clock.now());
    cast.runtime.setNow('2026-11-24T08:55:30Z');
    expect((await come('L1', 'a', code)).ok).toBe(true);
    for (let i = 0; i < 4; i += 1) expect((await come('L4', 'b', '000000')).says).toMatch(/not right/);
    expect((await come('L4', 'b', '000000')).says).toMatch(/five wrong codes/);
    expect((await come('L4', 'b')).says).toMatch(/Wait a minute/);
    // Another device of the same person is not paused.
    expect((await come('L4', 'c')).ok).toBe(true);
    cast.runtime.setNow('2026-11-24T08:56:31Z');
    expect((await come('L4', 'b')).ok).toBe(true);
  });

  it('stops a machine that guesses with ever new devices from one place', async () => {
    let last = '';
    for (let i = 0; i < 151; i += 1) last = (await come('L1', `device ${i}`, '000000', 'far away')).says;
    expect(last).toMatch(/too many wrong codes from here/);
    expect((await come('L1', 'a')).ok).toBe(true);
  });

  it('refuses a second learner on one device, lists them, and lets them in when somebody says so', async () => {
    await come('L1', 'a');
    expect(await come('L4', 'a')).toMatchObject({ ok: false, says: expect.stringContaining('Somebody else') });
    expect((await mark('L4'))!.mark).toBeNull();
    const screen = await checkInScreen(cast.runtime, cast.mentor, 'DRY-A-3');
    expect(screen).toMatchObject({
      state: 'open',
      expected: 2,
      inside: [{ name: 'Ines Marrow' }],
      refused: [{ learner_id: 'L4' }],
    });
    expect(screen.code).toBe(codeAt(secret, cast.runtime.clock.now()));
    await acceptRefused(cast.runtime, cast.mentor, 'DRY-A-3', 'L4');
    expect(await mark('L4')).toMatchObject({ mark: 'present', source: 'check_in' });
    await expect(acceptRefused(cast.runtime, cast.mentor, 'DRY-A-3', 'L4')).rejects.toThrow();
    for (const viewer of [cast.coordinator, cast.one]) {
      await expect(checkInScreen(cast.runtime, viewer, 'DRY-A-3')).rejects.toThrow('No such session');
      await expect(acceptRefused(cast.runtime, viewer, 'DRY-A-3', 'L4')).rejects.toThrow('No such session');
    }
  });

  it('does not change a mark that somebody has given', async () => {
    await giveMarks(cast.runtime, cast.mentor, 'DRY-A-3', { marks: [{ learner_id: 'L1', mark: 'excused', seen: 0 }] });
    await come('L1', 'a');
    expect(await mark('L1')).toMatchObject({ mark: 'excused', source: 'hand' });
  });

  it('tells at the door what the session is, and nothing of anybody', async () => {
    expect(await atTheDoor(cast.runtime, 'DRY-A-3')).toEqual({
      title: 'Week 3',
      course: 'Drystone Walling',
      time: 'Tue 24 Nov, 09:00 to 10:00',
    });
    await expect(atTheDoor(cast.runtime, 'nothing')).rejects.toThrow();
  });
});
