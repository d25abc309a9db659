import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { codeAt } from '@/core/sessions/check-in';
import { acceptRefused, atTheDoor, checkIn, checkInScreen, closeByCheckIns, openByCheckIns } from './check-in';
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

const come = (who: string, device: string, code?: string, address = 'classroom', since: number | null = null) =>
  checkIn(cast.runtime, 'DRY-A-3', {
    who,
    device: { id: device, since },
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
    for (let i = 0; i < 4; i += 1) expect((await come('L4', 'b', '000000')).says).toMatch(/did not work/);
    expect((await come('L4', 'b', '000000')).says).toMatch(/five wrong codes/);
    expect((await come('L4', 'b')).says).toMatch(/Wait a minute/);
    // Another device of the same person is not paused.
    expect((await come('L4', 'c')).ok).toBe(true);
    cast.runtime.setNow('2026-11-24T08:56:31Z');
    // No longer paused; that L4 is in by another device is told to nobody.
    expect((await come('L4', 'b')).says).toMatch(/did not work/);
  });

  it('stops a machine that guesses with ever new devices from one place', async () => {
    let last = '';
    expect((await come('L4', 'in before', undefined, '2001:db8:1:2::1')).ok).toBe(true);
    // Six addresses of one /64 are one network.
    for (let i = 0; i < 151; i += 1) last = (await come('L1', `device ${i}`, '000000', `2001:db8:1:2::${i % 6}`)).says;
    expect(last).toMatch(/too many wrong codes from here/);
    expect((await come('L1', 'a', undefined, '2001:db8:1:2::77')).says).toMatch(/too many/);
    // Who is in stays in, a device that was seen before is not held up, and nobody elsewhere is.
    expect((await come('L4', 'in before', undefined, '2001:db8:1:2::1')).ok).toBe(true);
    const seen = cast.runtime.clock.now() - 200_000;
    expect((await come('L1', 'a', undefined, '2001:db8:1:2::77', seen)).ok).toBe(true);
    // A minute later all of it begins anew.
    cast.runtime.setNow('2026-11-24T08:56:01Z');
    expect((await come('L1', 'another', '000000', '2001:db8:1:2::5')).says).toMatch(/did not work/);
  });

  it('refuses a second learner on one device, lists them, and lets them in when somebody says so', async () => {
    await come('L1', 'a');
    expect(await come('L4', 'a')).toMatchObject({
      ok: false,
      says: expect.stringContaining('checked somebody in already'),
    });
    // The same for an id that is nobody's: it tells nothing of who is enrolled.
    expect((await come('L99', 'a')).says).toBe((await come('L4', 'a')).says);
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

  it('takes an e-mail or a name as well, and offers the names of the group once the code was right', async () => {
    expect((await come('L1@learner.example', 'a')).ok).toBe(true);
    expect((await come('petra sandoval', 'b')).ok).toBe(true);
    const wrong = await come('Nobody', 'c', '000000');
    expect(wrong.choices).toBeUndefined();
    const right = await come('Nobody', 'c');
    expect(right.choices!.map(({ name }) => name)).toEqual(['Ines Marrow', 'Petra Sandoval']);
    await cast.runtime.db('check_in').delete();
    const choose = (device: string, now: string) => {
      cast.runtime.setNow(now);
      return checkIn(cast.runtime, 'DRY-A-3', {
        who: '',
        code: '',
        choice: right.choices![1].choice,
        pass: right.pass,
        device: { id: device, since: null },
        address: 'classroom',
      });
    };
    expect((await choose('d', '2026-11-24T08:56:00Z')).ok).toBe(false);
    expect((await choose('c', '2026-11-24T08:56:00Z')).ok).toBe(true);
    await cast.runtime.db('check_in').delete();
    expect((await choose('c', '2026-11-24T08:57:30Z')).ok).toBe(false);
  });

  it('is shown as many devices of one network and browser, and its check-ins are taken for the roll', async () => {
    await come('L1', 'a');
    const screen = await checkInScreen(cast.runtime, cast.mentor, 'DRY-A-3');
    expect(screen).toMatchObject({ alike: 1, without: 1, isClosed: false });
    const closed = await closeByCheckIns(cast.runtime, cast.mentor, 'DRY-A-3');
    expect(closed.absent).toHaveLength(1);
    expect(await mark('L4')).toMatchObject({ mark: 'absent' });
    expect(await checkInScreen(cast.runtime, cast.mentor, 'DRY-A-3')).toMatchObject({ without: 0, isClosed: true });
    await openByCheckIns(cast.runtime, cast.mentor, 'DRY-A-3', closed);
    expect(await mark('L4')).toMatchObject({ mark: null });
    expect(await mark('L1')).toMatchObject({ mark: 'present' });
    expect(await checkInScreen(cast.runtime, cast.mentor, 'DRY-A-3')).toMatchObject({ isClosed: false });
    for (const viewer of [cast.coordinator, cast.one])
      await expect(closeByCheckIns(cast.runtime, viewer, 'DRY-A-3')).rejects.toThrow('No such session');
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
