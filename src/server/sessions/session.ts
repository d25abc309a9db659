/** One session: its roll, who was there for how long, and the rows that nobody is known for. */
import { Matcher } from '@/core/sessions/match';
import { presenceOf, type Presence } from '@/core/sessions/presence';
import { LATE_AFTER, type SessionRule } from '@/core/sessions/outcome';
import { DEFAULT_THRESHOLDS, suggestMark, type Suggestion, type Thresholds } from '@/core/sessions/suggest';
import { groupBy } from '@/core/group-by';
import { withRaw } from '@/data/db';
import { rollOf, sessionRule, type RollRow } from '@/data/sessions/attendance';
import { lastChanges, listMarks, type MarkRow } from '@/data/sessions/marks';
import { candidatesOf } from '@/data/sessions/presence';
import { presenceRows, type UnmatchedRow } from '@/data/sessions/presence-rows';
import { sessionVersion } from '@/data/sessions/session-version';
import { withCounts, type CountedSession, type SessionRow } from '@/data/sessions/sessions';
import type { Segment, Viewer } from '@/data/scope';
import { isoOrNull, minutes } from '../request/values';
import type { Values } from '../request/input';
import type { Runtime } from '../runtime';
import { mayPlan, mayTakeRoll, requireSession } from './rights';

/** Where one suggested mark of a course ends and the next begins, and when a check-in is late. */
export async function rulesOf({ db }: Pick<Runtime, 'db'>, courseId: number): Promise<SessionRule> {
  return (await sessionRule(db, courseId)) ?? { ...DEFAULT_THRESHOLDS, lateAfter: LATE_AFTER };
}

/** A learner of a session with what their presence suggests. */
interface Attending extends RollRow {
  presence: Presence | null;
  suggested: Suggestion | null;
  /** The number of the last change of their mark; 0 before any. */
  change: number;
}

/** A row that nobody is known for, and who is likely meant. */
export interface Unmatched extends UnmatchedRow {
  proposed: { learner_id: string; name: string } | null;
}

export interface OpenSession {
  session: CountedSession;
  people: Attending[];
  unmatched: Unmatched[];
  /** Rows that were settled as no learner's, or are a member of staff's. */
  others: UnmatchedRow[];
  marks: MarkRow[];
  rules: SessionRule;
  mayTake: boolean;
  mayPlan: boolean;
  /** Was anything of its presence brought in? */
  hasPresence: boolean;
  /** How it stood when it was read: whoever watches it says so. */
  version: string;
}

/** Suggestions of everybody, where there is anything of the session's presence; before its end there are none. */
function withPresence(
  row: RollRow,
  intervals: Parameters<typeof presenceOf>[0] | undefined,
  {
    session,
    hasPresence,
    hasUnnamed,
    zone,
    rules,
    now,
  }: {
    session: SessionRow;
    hasPresence: boolean;
    hasUnnamed: boolean;
    zone: string;
    rules: Thresholds;
    now: number;
  },
): Omit<Attending, 'change'> {
  const time = { start: session.starts_at, end: session.ends_at };
  const presence = intervals ? presenceOf(intervals, time) : null;
  const isOver = session.ends_at <= now;
  // Whoever was not seen may be among the names that nobody is known for.
  const isOpen = presence === null && hasUnnamed;
  const suggested = hasPresence && isOver && !isOpen ? suggestMark(presence, time, zone, rules) : null;
  return { ...row, presence, suggested };
}

/**
 * A session as its page and the API show it: of the learners in scope. Rows that nobody is known for are shown to
 * whoever takes the roll alone, since they may be anybody's.
 * @throws NotFound
 */
export async function openSession(
  runtime: Runtime,
  viewer: Viewer,
  sessionId: string,
  segment: Segment = {},
): Promise<OpenSession> {
  const { db, clock, zone } = runtime;
  const now = clock.now();
  const row = await requireSession({ db }, viewer, sessionId);
  // First of all: what changes while the rest is read is then a change.
  const version = await withRaw(db, (raw) => sessionVersion(raw, row.id));
  const [[session], roll, rows, marks, rules, mayTake, changes] = await Promise.all([
    withCounts(db, { viewer, segment }, [row]),
    rollOf(db, { viewer, segment }, row.id),
    presenceRows(db, viewer, row.id),
    listMarks(db, true),
    rulesOf(runtime, row.course_id),
    mayTakeRoll(db, viewer, row),
    withRaw(db, (raw) => lastChanges(raw, row.id)),
  ]);
  const intervals = groupBy(rows.matched, (one) => one.learner_id);
  const hasPresence =
    rows.matched.length + rows.unmatched.length + rows.others.length > 0 || session.has_presence === 1;
  const people = roll.map((one) => ({
    ...withPresence(one, intervals.get(one.id), {
      session: row,
      hasPresence,
      hasUnnamed: session.unmatched > 0,
      zone,
      rules,
      now,
    }),
    change: changes.get(one.id) ?? 0,
  }));
  const unmatched = mayTake ? await proposals(runtime, viewer, row, roll, rows.unmatched) : [];
  return {
    session,
    people,
    unmatched,
    others: mayTake ? rows.others : [],
    marks,
    rules,
    mayTake,
    mayPlan: mayPlan(viewer, row),
    hasPresence,
    version: version,
  };
}

/** Likely names, from those on the roll: only somebody whom the viewer sees is proposed. */
async function proposals(
  { db }: Runtime,
  viewer: Viewer,
  session: SessionRow,
  roll: readonly RollRow[],
  rows: readonly UnmatchedRow[],
): Promise<Unmatched[]> {
  if (rows.length === 0) return [];
  const onRoll = new Map(roll.map((row) => [row.id, row]));
  const candidates = await withRaw(db, (raw) => candidatesOf(raw, session.course_id));
  const matcher = new Matcher(candidates.filter(({ id }) => onRoll.has(id)));
  return rows.map((row) => {
    const found = viewer.standInKey === null ? matcher.propose({ person: row.person }) : null;
    const one = found && onRoll.get(found.id);
    return { ...row, proposed: one ? { learner_id: one.learner_id, name: one.name } : null };
  });
}

export const ATTENDANCE_OF_SESSION = [
  'learner_id',
  'name',
  'mark',
  'suggested',
  'reason',
  'minutes',
  'share',
  'first_in',
  'last_out',
  'reconnects',
  'longest_gap_minutes',
  'source',
] as const;

/** Of the session itself, before each row of a file that has them. */
export const SESSION_FACTS = [
  'session_id',
  'title',
  'course',
  'group',
  'starts_at',
  'ends_at',
  'mode',
  'place',
] as const;

/** A session's attendance as the API and files give it. Seconds are kept: minutes have four decimals. */
export function attendanceFigures({ session, people }: Pick<OpenSession, 'session' | 'people'>): Values[] {
  const { session_id, title, course, group, starts_at, ends_at, mode, place } = session;
  return people.map(({ presence, suggested, learner_id, name, mark: version, source }) => ({
    session_id,
    title,
    course,
    group,
    starts_at: isoOrNull(starts_at),
    ends_at: isoOrNull(ends_at),
    mode,
    place,
    learner_id,
    name,
    version: version,
    suggested: suggested?.mark ?? null,
    reason: suggested?.reason ?? null,
    minutes: presence ? minutes(presence.ms) : null,
    share: presence ? Math.round(presence.share * 1e5) / 1e5 : null,
    first_in: isoOrNull(presence?.firstIn ?? null),
    last_out: isoOrNull(presence?.lastOut ?? null),
    reconnects: presence?.reconnects ?? null,
    longest_gap_minutes: presence ? minutes(presence.longestGapMs) : null,
    source,
  }));
}
