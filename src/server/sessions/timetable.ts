/** Planning sessions: one or a weekly series, and changing them. */
import { newSecret } from '@/core/sessions/check-in';
import {
  MOST_IN_SERIES,
  clashOf,
  daysOfRule,
  timesOn,
  weeklyOf,
  weeklyRule,
  type Timed,
} from '@/core/sessions/timetable';
import { sayDay, sayInstant } from '@/core/time/words';
import { courseOfGroup } from '@/data/courses/courses';
import { findSegment } from '@/data/courses/segments';
import { rawTransaction } from '@/data/db';
import { sessionsInUse, sessionsNamed, type SessionRow } from '@/data/sessions/sessions';
import {
  TimetableChange,
  addSeries,
  breaksOf,
  findChange,
  instructorsOf,
  openNewIds,
  seriesById,
  sessionsInTheWay,
  sessionsOfSeries,
  storedSession,
  undoChange,
  type StoredSession,
} from '@/data/sessions/timetable';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound, readInput, type Values } from '../request/input';
import type { Runtime } from '../runtime';
import { mayPlan, requireSession } from './rights';
import { ChangeSessionInput, NewSessionInput, CancelInput, ruleOf, timeOf } from './timetable-input';

/** What became of a change of the timetable, in words where something stayed or is in the way. */
export interface Planned {
  /** By which it is undone. */
  change: number;
  sessions: number;
  /** Sessions that stay as they are, each with why. */
  left: string[];
  /** Sessions that are in the way of others. */
  clashes: string[];
  /** The first one's id. */
  first: string | null;
}

async function placeOf(
  { db }: Runtime,
  viewer: Viewer,
  part: string,
): Promise<{ course_id: number; group_id: number | null; code: string }> {
  const segment = await findSegment(db, viewer, part.includes('/') ? { group: part } : { course: part });
  const unknown = new InvalidInput([{ field: 'part', message: `is none that you plan: ${part}` }]);
  if (!segment) throw unknown;
  const group_id = segment.groupId ?? null;
  const course_id = segment.courseId ?? (await courseOfGroup(db, segment.groupId!));
  if (!mayPlan(viewer, { course_id, group_id })) throw unknown;
  return { course_id, group_id, code: part.replace('/', '-') };
}

async function instructorId(
  { db }: Runtime,
  viewer: Viewer,
  courseId: number,
  text: string | undefined,
): Promise<number | null> {
  if (text === undefined) return null;
  const known = await instructorsOf(db, viewer, [courseId]);
  if (!known.some(({ id }) => id === Number(text))) {
    throw new InvalidInput([{ field: 'instructor', message: 'is nobody who teaches this course' }]);
  }
  return Number(text);
}

/**
 * Adds one session, or a weekly series by the clock on the wall with the course's breaks left out.
 * @throws InvalidInput
 */
export async function planSessions(runtime: Runtime, viewer: Viewer, values: Values): Promise<Planned> {
  const { db, clock, zone } = runtime;
  const input = readInput(NewSessionInput, values);
  const place = await placeOf(runtime, viewer, input.part);
  const { minute, minutes } = timeOf(input);
  const instructor_id = await instructorId(runtime, viewer, place.course_id, input.instructor);
  const rule = input.repeat === 'weekly' ? ruleOf(input, minute) : null;
  const by = { staff_id: viewer.staffId || null, at: clock.now() };
  const made = await rawTransaction(db, (raw) => {
    const days = rule === null ? [input.from] : daysOfRule(rule, breaksOf(raw, place.course_id));
    if (days.length === 0)
      throw new InvalidInput([{ field: 'days', message: 'come on no day of this time, or all lie in a break' }]);
    if (days.length > MOST_IN_SERIES)
      throw new InvalidInput([{ field: 'until', message: `makes more than ${MOST_IN_SERIES} sessions` }]);
    const series_id =
      rule === null
        ? null
        : addSeries(raw, {
            course_id: place.course_id,
            group_id: place.group_id,
            rule,
            made_by: by.staff_id,
            created_at: by.at,
          });
    const change = new TimetableChange(raw, by);
    const newId = openNewIds(raw, `${place.code}-`);
    const ids = days.map((day, index) =>
      change.add({
        external_id: newId(),
        course_id: place.course_id,
        group_id: place.group_id,
        series_id,
        series_day: series_id === null ? null : day,
        title: days.length > 1 ? `${input.title} ${index + 1}` : input.title,
        day,
        ...timesOn(day, minute, minutes, zone),
        mode: input.mode,
        place: input.place ?? '',
        instructor_id,
        secret: newSecret(),
      }),
    );
    return { change: change.keep('added sessions'), rows: ids.map((id) => storedSession(raw, id)!) };
  });
  return {
    change: made.change,
    sessions: made.rows.length,
    left: [],
    clashes: await clashesOf(runtime, viewer, made.rows),
    first: made.rows[0].external_id,
  };
}

/** Clashes that are named at most; more are counted. */
const NAMED = 5;

/** What is in the way of some sessions, in words. */
async function clashesOf({ db, zone }: Runtime, viewer: Viewer, rows: readonly Timed[]): Promise<string[]> {
  const others = await sessionsInTheWay(db, viewer, rows);
  const found = rows.flatMap((row) =>
    others.flatMap((other) => {
      const clash = clashOf(row, other);
      const whose = [other.course, other.group].filter(Boolean).join(' · ');
      const what = other.isSeen ? `${other.title} (${whose})` : 'another session';
      return clash === null ? [] : [`${sayInstant(other.starts_at, zone)}: ${what}, the same ${clash}`];
    }),
  );
  const more = found.length - NAMED;
  return more > 0 ? [...found.slice(0, NAMED), `and ${more} more`] : found;
}

/** Why a session of a series stays as it is; null where it may be changed. */
function staysAs(one: StoredSession, inUse: Set<number>): string | null {
  if (one.roll_at !== null) return 'its roll is taken';
  if (inUse.has(one.id)) return 'somebody was there';
  if (one.by_hand) return 'it was changed by itself';
  return one.cancelled ? 'it is cancelled' : null;
}

/**
 * Changes a session, this and the later ones of its series, or all of them. Those that have a roll, presence or a
 * change of their own stay and are named; the one that the form is of is changed in any case.
 * @throws InvalidInput, NotFound
 */
export async function changeSession(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  values: Values,
): Promise<Planned> {
  const { db, clock, zone } = runtime;
  const session = await requireSession({ db }, viewer, sessionId);
  if (!mayPlan(viewer, session)) throw new NotFound('No such session');
  const input = readInput(ChangeSessionInput, values);
  const { minute, minutes } = timeOf(input);
  const instructor_id = await instructorId(runtime, viewer, session.course_id, input.instructor);
  const by = { staff_id: viewer.staffId || null, at: clock.now() };
  const done = await rawTransaction(db, (raw) => {
    const stored = storedSession(raw, session.id)!;
    if (input.seen !== undefined && Number(input.seen) !== stored.sequence)
      throw new InvalidInput([
        {
          field: 'title',
          message: 'and the rest were changed by somebody else meanwhile: load the page anew to see it',
        },
      ]);
    const series = stored.series_id !== null && input.reaches !== 'this' ? seriesById(raw, stored.series_id) : null;
    const shift = input.from - stored.day;
    const all = series ? sessionsOfSeries(raw, series.id) : [stored];
    const meant = all.filter(
      (one) => input.reaches === 'all' || one.series_day === null || one.series_day >= (stored.series_day ?? 0),
    );
    const inUse = sessionsInUse(
      raw,
      meant.map(({ id }) => id),
    );
    const change = new TimetableChange(raw, by);
    const left: string[] = [];
    const changed: StoredSession[] = [];
    let series_id = stored.series_id;
    if (series && input.reaches === 'later' && all.length > meant.length) {
      const rule = movedRule(series.rule, { from: stored.day, shift, minute });
      series_id = addSeries(raw, { ...series, rule, made_by: by.staff_id, created_at: by.at });
      change.rule(series.id, weeklyRule({ ...weeklyOf(series.rule), until: (stored.series_day ?? stored.day) - 1 }));
    } else if (series) change.rule(series.id, movedRule(series.rule, { from: null, shift, minute }));
    for (const one of meant) {
      const why = one.id === stored.id ? null : staysAs(one, inUse);
      if (why !== null) {
        left.push(`${sayDay(one.day)}: ${why}`);
        continue;
      }
      const day = one.day + shift;
      change.change(one, {
        title: one.id === stored.id ? input.title : renamed(one.title, stored.title, input.title),
        day,
        ...timesOn(day, minute, minutes, zone),
        mode: input.mode,
        place: input.place ?? '',
        instructor_id,
        series_id,
        series_day: series ? day : stored.series_day,
        by_hand: series ? 0 : 1,
      });
      changed.push(storedSession(raw, one.id)!);
    }
    return { change: change.keep('changed sessions'), changed, left };
  });
  return {
    change: done.change,
    sessions: done.changed.length,
    left: done.left,
    clashes: await clashesOf(runtime, viewer, done.changed),
    first: session.session_id,
  };
}

/** A series' sessions are numbered: a new name goes before each one's own number. */
function renamed(title: string, was: string, becomes: string): string {
  const number = / \d+$/;
  const [oldName, newName] = [was.replace(number, ''), becomes.replace(number, '')];
  return title.replace(number, '') === oldName ? `${newName}${number.exec(title)?.[0] ?? ''}` : title;
}

/** A rule moved by some days, at another time, from a day on where one is given. */
function movedRule(
  rule: string,
  { from, shift, minute }: { from: number | null; shift: number; minute: number },
): string {
  const weekly = weeklyOf(rule);
  return weeklyRule({
    days: weekly.days.map((day) => (((day + shift) % 7) + 7) % 7),
    from: (from ?? weekly.from) + shift,
    until: weekly.until + shift,
    minuteOfDay: minute,
  });
}

/** Most sessions that are changed at once. */
const MOST_AT_ONCE = 500;

/** Sessions of the viewer's to plan, by their ids. @throws NotFound, InvalidInput */
async function plannedByViewer({ db }: Runtime, viewer: Viewer, ids: readonly string[]): Promise<SessionRow[]> {
  const wanted = [...new Set(ids)];
  if (wanted.length === 0 || wanted.length > MOST_AT_ONCE) {
    throw new InvalidInput([{ field: 'sessions', message: `are none, or more than ${MOST_AT_ONCE}` }]);
  }
  const found = await sessionsNamed(db, viewer, wanted);
  if (found.length < wanted.length || !found.every((one) => mayPlan(viewer, one)))
    throw new NotFound('No such session');
  return found;
}

/** Cancels sessions, and says why: they stay, and count for nobody. @throws InvalidInput, NotFound */
export async function cancelSessions(
  runtime: Runtime,
  viewer: Viewer,
  ids: readonly string[],
  values: Values,
): Promise<Planned> {
  const { reason } = readInput(CancelInput, values);
  const found = await plannedByViewer(runtime, viewer, ids);
  return changeAll(runtime, viewer, found, 'called sessions off', { cancelled: 1, reason, by_hand: 1 });
}

/** Holds sessions after all. @throws InvalidInput, NotFound */
export async function reinstateSessions(runtime: Runtime, viewer: Viewer, ids: readonly string[]): Promise<Planned> {
  const found = await plannedByViewer(runtime, viewer, ids);
  return changeAll(runtime, viewer, found, 'held sessions after all', { cancelled: 0, reason: '', by_hand: 1 });
}

/** Deletes sessions on which nothing hangs; the others stay and are named. @throws InvalidInput, NotFound */
export async function deleteSessions(runtime: Runtime, viewer: Viewer, ids: readonly string[]): Promise<Planned> {
  const found = await plannedByViewer(runtime, viewer, ids);
  const at = runtime.clock.now();
  return changeAll(runtime, viewer, found, 'deleted sessions', { removed_at: at }, true);
}

async function changeAll(
  { db, clock }: Runtime,
  viewer: Viewer,
  found: readonly { id: number; session_id: string; day: number }[],
  what: string,
  changes: Partial<StoredSession>,
  onlyUnused = false,
): Promise<Planned> {
  return rawTransaction(db, (raw) => {
    const inUse = onlyUnused
      ? sessionsInUse(
          raw,
          found.map(({ id }) => id),
        )
      : new Set<number>();
    const change = new TimetableChange(raw, { staff_id: viewer.staffId || null, at: clock.now() });
    const left = found
      .filter(({ id }) => inUse.has(id))
      .map(({ day }) => `${sayDay(day)}: marks, presence or a check-in hang on it. Cancel it instead`);
    const meant = found.filter(({ id }) => !inUse.has(id));
    for (const { id } of meant) change.change(storedSession(raw, id)!, changes);
    return { change: change.keep(what), sessions: meant.length, left, clashes: [], first: found[0].session_id };
  });
}

/** Undoes a change of the timetable of one's own. @throws NotFound */
export async function undoPlanning({ db, clock }: Runtime, viewer: Viewer, changeId: number): Promise<void> {
  await rawTransaction(db, (raw) => {
    const found = findChange(raw, changeId);
    if (!found || (found.staff_id ?? 0) !== (viewer.staffId || 0)) throw new NotFound('No such change');
    const { before, added, rules } = found.record;
    // What one may no longer plan one may no longer undo, and what somebody has changed since stays as they have it.
    const mine = (id: number) => {
      const now = storedSession(raw, id);
      return now !== null && mayPlan(viewer, now) ? now : null;
    };
    const unchanged = before.filter((one) => mayPlan(viewer, one) && mine(one.id)?.sequence === one.sequence + 1);
    const ours = added.filter((id) => mine(id)?.sequence === 0);
    if (unchanged.length + ours.length === 0)
      throw new InvalidInput([
        { field: 'change', message: 'cannot be undone: it was changed again, or is no longer yours' },
      ]);
    const isWhole = unchanged.length === before.length && ours.length === added.length;
    const record = { before: unchanged, added: ours, rules: isWhole ? rules : [] };
    undoChange(raw, changeId, record, sessionsInUse(raw, ours), clock.now());
  });
}
