/** Checking oneself in: without an account, by a learner's id and the code on the screen. */
import { createHash } from 'node:crypto';
import { PAUSE, WRONG_CODES, codeAt, codeLasts, doorAt, isCode, opensAt } from '@/core/sessions/check-in';
import { sayDay, sayTime } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { writingRaw } from '@/data/db';
import {
  addCheckIn,
  checkInPeople,
  deviceTry,
  expectedLearner,
  findCheckIn,
  learnerOfDevice,
  noteTry,
  sessionForCheckIn,
  setCheckInState,
} from '@/data/sessions/check-in';
import { findMark, noteNoRoll, noteRoll, setMark } from '@/data/sessions/marks';
import { staleMark } from '@/data/sessions/stale-sessions';
import { rollOf } from '@/data/sessions/attendance';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '../request/input';
import type { Runtime } from '../runtime';
import { requireRoll } from './rights';
import { rulesOf } from './session';

/** What the learner's page says. */
export interface CheckInAnswer {
  ok: boolean;
  says: string;
}

/** One answer for a wrong code, an unknown id and one that is not expected: nobody learns from it who is enrolled. */
const WRONG = 'The id or the code is not right. Look at the screen for the code as it is now, and try again.';

const PAUSED = 'There were five wrong codes. Wait a minute, then try again.';
/** Wrong codes from one network address, by whatever devices, before all of it pauses. */
const WRONG_FROM_ONE_PLACE = 150;

function refusal(says: string): CheckInAnswer {
  return { ok: false, says };
}

/** The session as somebody at its door may know it: what it is called and when it is. @throws NotFound */
export async function atTheDoor({ db, clock, zone }: Runtime, sessionId: string) {
  const session = await sessionForCheckIn(db, sessionId);
  if (!session) throw new NotFound('No such session');
  const now = clock.now();
  const time = `${sayDay(dayOf(session.starts_at, zone), dayOf(now, zone))}, ${sayTime(session.starts_at, zone)} to ${sayTime(session.ends_at, zone)}`;
  return { title: session.title, course: session.course_title, time };
}

/**
 * Checks somebody in.
 * @param device what stands for the device, which one learner checks in with for a session
 * @param address where it comes from: a class behind one address is let in, a machine that guesses is not
 */
export async function checkIn(
  runtime: Runtime,
  sessionId: string,
  { learnerId, code, device, address }: { learnerId: string; code: string; device: string; address: string },
): Promise<CheckInAnswer> {
  const { db, clock, zone } = runtime;
  const now = clock.now();
  const session = await sessionForCheckIn(db, sessionId);
  if (!session) return refusal('There is no such session. Scan the code on the screen again.');
  if (session.cancelled) return refusal('This session is not held.');
  const { lateAfter } = await rulesOf(runtime, session.course_id);
  const door = doorAt(now, session, lateAfter);
  if (door === 'early') return refusal(`It is too early: you can check in from ${sayTime(opensAt(session), zone)}.`);
  if (door === 'over') return refusal(`The session ended at ${sayTime(session.ends_at, zone)}. Ask whoever gave it.`);
  const sealed = (text: string) => createHash('sha256').update(`${session.id}/${text}`).digest('base64url');
  const [hash, place] = [sealed(device), sealed(`from ${address}`)];
  return writingRaw(db, (raw) => {
    const before = deviceTry(raw, session.id, hash);
    const around = deviceTry(raw, session.id, place);
    if (before.until > now) return refusal(PAUSED);
    if (around.until > now) return refusal('There were too many wrong codes from here. Wait a minute, then try again.');
    const learner = isCode(session.secret, code, now) ? expectedLearner(raw, session, learnerId) : null;
    if (learner === null) {
      const failures = before.failures + 1;
      const isPaused = failures >= WRONG_CODES;
      noteTry(raw, session.id, hash, { failures: isPaused ? 0 : failures, until: isPaused ? now + PAUSE : 0 });
      const all = around.failures + 1;
      const isTooMany = all >= WRONG_FROM_ONE_PLACE;
      noteTry(raw, session.id, place, { failures: isTooMany ? 0 : all, until: isTooMany ? now + PAUSE : 0 });
      return refusal(isPaused ? PAUSED : WRONG);
    }
    noteTry(raw, session.id, hash, { failures: 0, until: 0 });
    const known = findCheckIn(raw, session.id, learner);
    if (known && known.state !== 'refused') return { ok: true, says: `You are in, ${sayTime(known.at, zone)}` };
    const other = learnerOfDevice(raw, session.id, hash);
    if (other !== null && other !== learner) {
      addCheckIn(raw, { session_id: session.id, learner_id: learner, device: hash, at: now, state: 'refused' });
      return refusal(
        'Somebody else has checked in with this device. Whoever gives the session has been told, and can let you in.',
      );
    }
    addCheckIn(raw, { session_id: session.id, learner_id: learner, device: hash, at: now, state: 'in' });
    markCheckedIn(raw, session.id, learner, door === 'late', now);
    return { ok: true, says: `You are in, ${sayTime(now, zone)}${door === 'late' ? ', late' : ''}` };
  });
}

type Raw = Parameters<typeof setMark>[0];

/** The mark of somebody who came; one that a person has given stays. */
function markCheckedIn(raw: Raw, sessionId: number, learnerId: number, isLate: boolean, at: number): void {
  const stored = findMark(raw, sessionId, learnerId);
  if (stored && stored.source !== 'check_in') return;
  const mark = isLate ? 'late' : 'present';
  setMark(raw, {
    session_id: sessionId,
    learner_id: learnerId,
    mark,
    remark: '',
    source: 'check_in',
    staff_id: null,
    at,
  });
  staleMark(raw, sessionId, learnerId);
}

/** What the screen shows: the digits, how long they stand, and who is in. */
export interface CheckInScreen {
  code: string;
  /** Ms until the digits change. */
  lasts: number;
  inside: { name: string; at: number }[];
  expected: number;
  refused: { learner_id: string; name: string; at: number }[];
  state: 'early' | 'open' | 'late' | 'over' | 'off';
  /** Those expected of whom there is no mark yet, and whether the roll is closed. */
  without: number;
  isClosed: boolean;
}

/** The screen of a session as it is now, for whoever takes its roll. @throws NotFound */
export async function checkInScreen(runtime: Runtime, viewer: Viewer, sessionId: string): Promise<CheckInScreen> {
  const { db, clock } = runtime;
  const session = await requireRoll({ db }, viewer, sessionId);
  const now = clock.now();
  const [stored, rules, people, roll] = await Promise.all([
    sessionForCheckIn(db, sessionId),
    rulesOf(runtime, session.course_id),
    checkInPeople(db, viewer, session.id),
    rollOf(db, { viewer, lens: {} }, session.id),
  ]);
  return {
    code: codeAt(stored!.secret, now),
    lasts: codeLasts(now),
    inside: people.filter(({ state }) => state !== 'refused').map(({ name, at }) => ({ name, at })),
    refused: people
      .filter(({ state }) => state === 'refused')
      .map(({ learner_id, name, at }) => ({ learner_id, name, at })),
    expected: roll.filter(({ is_guest }) => !is_guest).length,
    state: session.cancelled ? 'off' : doorAt(now, session, rules.lateAfter),
    without: roll.filter(({ is_guest, mark }) => !is_guest && mark === null).length,
    isClosed: session.roll_at !== null,
  };
}

/** What closing a roll gave: to be undone. */
export interface ClosedRoll {
  /** Learners who were marked absent. */
  absent: number[];
}

/**
 * Takes the check-ins for the roll: whoever is in has their mark, and everybody else who was expected and has none is absent.
 * Until then a room full of check-ins counts for nobody's rate.
 * @throws InvalidInput where nobody is in; NotFound
 */
export async function closeByCheckIns(runtime: Runtime, viewer: Viewer, sessionId: string): Promise<ClosedRoll> {
  const { db, clock } = runtime;
  const session = await requireRoll({ db }, viewer, sessionId);
  if (session.cancelled) throw new InvalidInput([{ field: 'session', message: 'is not held: it has no roll' }]);
  const roll = await rollOf(db, { viewer, lens: {} }, session.id);
  if (!roll.some(({ mark }) => mark !== null))
    throw new InvalidInput([{ field: 'session', message: 'has nobody who is in: take the roll by hand' }]);
  return writingRaw(db, (raw) => {
    const absent = roll.filter(({ id, is_guest }) => !is_guest && findMark(raw, session.id, id) === null);
    for (const { id } of absent) {
      setMark(raw, {
        session_id: session.id,
        learner_id: id,
        mark: 'absent',
        remark: '',
        source: 'suggested',
        staff_id: viewer.staffId || null,
        at: clock.now(),
      });
    }
    noteRoll(raw, session.id, clock.now(), viewer.staffId || null);
    for (const { id } of roll) staleMark(raw, session.id, id);
    return { absent: absent.map(({ id }) => id) };
  });
}

/** Opens a roll again that was closed by check-ins; marks that somebody has changed since stay. @throws NotFound */
export async function openByCheckIns(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  { absent }: ClosedRoll,
): Promise<void> {
  const { db, clock } = runtime;
  const session = await requireRoll({ db }, viewer, sessionId);
  const roll = await rollOf(db, { viewer, lens: {} }, session.id);
  await writingRaw(db, (raw) => {
    for (const { id } of roll) {
      const stored = findMark(raw, session.id, id);
      if (absent.includes(id) && stored?.source === 'suggested' && stored.mark === 'absent')
        setMark(raw, { ...stored, mark: null, staff_id: viewer.staffId || null, at: clock.now() });
      staleMark(raw, session.id, id);
    }
    noteNoRoll(raw, session.id);
  });
}

/** Lets somebody in who was refused, at the time they came. @throws NotFound */
export async function acceptRefused(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  learnerId: string,
): Promise<void> {
  const { db } = runtime;
  const session = await requireRoll({ db }, viewer, sessionId);
  const { lateAfter } = await rulesOf(runtime, session.course_id);
  const one = (await checkInPeople(db, viewer, session.id)).find(
    (row) => row.learner_id === learnerId && row.state === 'refused',
  );
  if (!one) throw new NotFound('Nobody who was refused');
  await writingRaw(db, (raw) => {
    setCheckInState(raw, session.id, one.id, 'accepted');
    markCheckedIn(raw, session.id, one.id, doorAt(one.at, session, lateAfter) === 'late', one.at);
  });
}
