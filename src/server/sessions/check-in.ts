/** Checking oneself in: without an account, by a learner's id and the code on the screen. */
import { createHash, randomBytes } from 'node:crypto';
import { PAUSE, WRONG_CODES, codeAt, codeLasts, doorAt, isCode, opensAt } from '@/core/sessions/check-in';
import { choiceOf, isPass, networkOf, passOf, type Device } from './door';
import { Matcher, type Candidate } from '@/core/sessions/match';
import { sayDay, sayTime } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { withRaw, rawTransaction } from '@/data/db';
import { ownSecret } from '@/data/settings';
import {
  addCheckIn,
  checkInPeople,
  deviceTry,
  expectedAt,
  findCheckIn,
  learnerOfDevice,
  mostAlike,
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
  /** Names to choose from, for somebody whose code was right, and the word that it was. */
  choices?: { choice: string; name: string }[];
  pass?: string;
}

const DOOR_KEY = 'door_key';

/** What devices are signed with; made once. */
export async function doorKey({ db }: Pick<Runtime, 'db'>): Promise<string> {
  return ownSecret(db, DOOR_KEY, () => randomBytes(32).toString('base64url'));
}

/** One answer for whatever did not work: nobody learns from it who is enrolled, or who is in. */
const WRONG = 'That did not work. Look at the screen for the code as it is now, and try again.';
const TAKEN =
  'This device has checked somebody in already. Whoever gives the session can see that, and can let you in.';
const PAUSED = 'There were five wrong codes. Wait a minute, then try again.';
const TOO_MANY = 'There were too many wrong codes from here. Wait a minute, then try again.';
/** Wrong codes in a minute from one network, by whatever devices, before those that are new to it wait. */
const WRONG_FROM_ONE_NETWORK = 150;
const WINDOW = 60_000;
/** A device that was seen so long before is none that was made for guessing now, in ms. */
const KNOWN_FOR = 2 * 60_000;

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

/** What somebody at the door gives. */
export interface CheckInForm {
  /** Their id, e-mail address or name. */
  who: string;
  code: string;
  /** A name that was chosen from the list, and the word that the code was right. */
  choice?: string;
  pass?: string;
  device: Device;
  address: string;
  agent?: string;
}

/**
 * Checks somebody in. The code of the screen lets in whoever is expected, by id, e-mail or name; where that finds nobody, and
 * the code was right, the names of those expected are offered. One device checks in one learner.
 */
export async function checkIn(runtime: Runtime, sessionId: string, form: CheckInForm): Promise<CheckInAnswer> {
  const { db, clock, zone } = runtime;
  const now = clock.now();
  const session = await sessionForCheckIn(db, sessionId);
  if (!session) return refusal('There is no such session. Scan the code on the screen again.');
  if (session.cancelled) return refusal('This session is cancelled.');
  const { lateAfter } = await rulesOf(runtime, session.course_id);
  const door = doorAt(now, session, lateAfter);
  if (door === 'early') return refusal(`It is too early: you can check in from ${sayTime(opensAt(session), zone)}.`);
  if (door === 'over') return refusal(`The session ended at ${sayTime(session.ends_at, zone)}. Ask whoever gave it.`);
  const { device, pass = '' } = form;
  const sealed = (text: string) => createHash('sha256').update(`${session.id}/${text}`).digest('base64url');
  const [hash, network] = [sealed(device.id), sealed(`from ${networkOf(form.address)}`)];
  return rawTransaction(db, (raw) => {
    const tries = waitAtDoor(raw, { session: session.id, hash, network, since: device.since, now });
    if ('wait' in tries) return refusal(tries.wait);
    const isRight = isCode(session.secret, form.code, now) || isPass(session.secret, device.id, pass, now);
    if (!isRight) return refusal(tries.wrong());
    tries.right();
    const expected = expectedAt(raw, session);
    const learner = whoIs(expected, form, session.secret);
    const theirCheckIn = learner === null ? null : findCheckIn(raw, session.id, learner);
    if (theirCheckIn && theirCheckIn.state !== 'refused' && theirCheckIn.device === hash)
      return { ok: true, says: `You are in, ${sayTime(theirCheckIn.at, zone)}` };
    const row = { session_id: session.id, device: hash, at: now, origin: sealed(`${network} ${form.agent ?? ''}`) };
    if (learnerOfDevice(raw, session.id, hash) !== null) {
      if (learner !== null && (theirCheckIn === null || theirCheckIn.state === 'refused'))
        addCheckIn(raw, { ...row, learner_id: learner, state: 'refused' });
      return refusal(TAKEN);
    }
    if (learner === null || theirCheckIn?.state === 'in' || theirCheckIn?.state === 'accepted') {
      const names = new Map(expected.map(({ id, name }) => [choiceOf(session.secret, id), name]));
      const choices = [...names].map(([choice, name]) => ({ choice, name }));
      return { ...refusal(WRONG), choices: byNames(choices), pass: passOf(session.secret, device.id, now) };
    }
    addCheckIn(raw, { ...row, learner_id: learner, state: 'in' });
    noteCheckedIn(raw, session.id, learner, door === 'late', now);
    return { ok: true, says: `You are in, ${sayTime(now, zone)}${door === 'late' ? ', late' : ''}` };
  });
}

const collator = new Intl.Collator('en');
const byNames = (choices: { choice: string; name: string }[]) =>
  choices.sort((a, b) => collator.compare(a.name, b.name));

/** Who somebody says they are, of those expected; null for nobody, and for one of two who have that name. */
function whoIs(expected: readonly Candidate[], { who, choice }: CheckInForm, secret: string): number | null {
  if (choice) return expected.find(({ id }) => choiceOf(secret, id) === choice)?.id ?? null;
  const found = new Matcher(expected).match({ person: who, email: who });
  return 'id' in found ? found.id : null;
}

/** Whether a device has to wait, and what its try is counted as. Wrong codes of a network are counted by the minute. */
function waitAtDoor(
  raw: Raw,
  {
    session,
    hash,
    network,
    since,
    now,
  }: { session: number; hash: string; network: string; since: number | null; now: number },
): { wait: string } | { wrong: () => string; right: () => void } {
  const ofDevice = deviceTry(raw, session, hash);
  const ofNetwork = deviceTry(raw, session, network);
  // A clock that was put back has nobody wait for longer than a minute.
  const isOn = (until: number) => until > now && until <= now + WINDOW;
  if (ofDevice.failures >= WRONG_CODES && isOn(ofDevice.until)) return { wait: PAUSED };
  const inWindow = isOn(ofNetwork.until) ? ofNetwork.failures : 0;
  const isKnown = learnerOfDevice(raw, session, hash) !== null || (since !== null && now - since >= KNOWN_FOR);
  if (inWindow >= WRONG_FROM_ONE_NETWORK && !isKnown) return { wait: TOO_MANY };
  return {
    right: () => noteTry(raw, session, hash, { failures: 0, until: 0 }),
    wrong: () => {
      const failures = (ofDevice.failures >= WRONG_CODES ? 0 : ofDevice.failures) + 1;
      const isPaused = failures >= WRONG_CODES;
      noteTry(raw, session, hash, { failures, until: isPaused ? now + PAUSE : 0 });
      const until = inWindow > 0 ? ofNetwork.until : now + WINDOW;
      noteTry(raw, session, network, { failures: inWindow + 1, until });
      return isPaused ? PAUSED : WRONG;
    },
  };
}

type Raw = Parameters<typeof setMark>[0];

/** The mark of somebody who came; one that a person has given stays. */
function noteCheckedIn(raw: Raw, sessionId: number, learnerId: number, isLate: boolean, at: number): void {
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
  /** Devices of one network and kind of browser that have checked people in, the most of any. */
  alike: number;
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
    rollOf(db, { viewer, segment: {} }, session.id),
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
    alike: await withRaw(db, (raw) => mostAlike(raw, session.id)),
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
  if (session.cancelled) throw new InvalidInput([{ field: 'session', message: 'is cancelled: it has no roll' }]);
  const roll = await rollOf(db, { viewer, segment: {} }, session.id);
  if (!roll.some(({ mark }) => mark !== null))
    throw new InvalidInput([{ field: 'session', message: 'has nobody who is in: take the roll by hand' }]);
  return rawTransaction(db, (raw) => {
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
  const roll = await rollOf(db, { viewer, segment: {} }, session.id);
  await rawTransaction(db, (raw) => {
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
  await rawTransaction(db, (raw) => {
    setCheckInState(raw, session.id, one.id, 'accepted');
    noteCheckedIn(raw, session.id, one.id, doorAt(one.at, session, lateAfter) === 'late', one.at);
  });
}
