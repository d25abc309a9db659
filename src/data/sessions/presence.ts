/** Who was in a session, from when to when: the rows of meetings, whom each is about, and what they come to. */
import { Matcher, foldName, type Candidate, type MatchedBy } from '@/core/sessions/match';
import { presenceOf, type Interval, type SessionTime } from '@/core/sessions/presence';
import { groupBy } from '@/core/group-by';
import type { RowOf } from '../tables';
import { prepared, type RawConnection } from '../db';
import { staleMark, stalePresence, staleSessions } from './stale-sessions';

type PresenceRow = RowOf<'presence_row'>;

/** A row as a meeting tells it. */
export interface NewPresence {
  person: string;
  email: string | null;
  entered: number;
  left: number | null;
}

/** Everybody who may be meant in a course: its learners, by the records that were merged into theirs as well. */
export function candidatesOf(raw: RawConnection, courseId: number): Candidate[] {
  return prepared(
    raw,
    `SELECT l.id, l.external_id AS learnerId, trim(l.given_name || ' ' || l.family_name) AS name, l.email
       FROM live_enrolment e JOIN learner l ON l.id = e.learner_id WHERE e.course_id = @courseId
     UNION ALL
     SELECT l.merged_into, l.external_id, trim(l.given_name || ' ' || l.family_name), l.email
       FROM live_enrolment e JOIN learner l ON l.merged_into = e.learner_id WHERE e.course_id = @courseId`,
  ).all({ courseId }) as Candidate[];
}

/** Tells whom rows of a course's sessions are about. Staff are known by their e-mail address. */
export interface RowMatcher {
  matcher: Matcher;
  match(row: Pick<NewPresence, 'person' | 'email'>): { learner_id: number | null; matched: MatchedBy | null };
}

/** Everything that matching in a course needs, read once. */
export function openMatcher(raw: RawConnection, courseId: number): RowMatcher {
  const aliases = prepared(
    raw,
    `SELECT a.folded, ifnull(l.merged_into, a.learner_id) FROM presence_alias a LEFT JOIN learner l ON l.id = a.learner_id
     WHERE a.course_id = ?`,
  )
    .raw()
    .all(courseId) as [string, number | null][];
  const matcher = new Matcher(candidatesOf(raw, courseId), new Map(aliases));
  const isStaff = prepared(raw, 'SELECT 1 FROM staff WHERE email = ? COLLATE NOCASE').pluck();
  return {
    matcher,
    match(row) {
      const found = matcher.match(row);
      if (found.by === 'nobody') return { learner_id: null, matched: 'nobody' };
      if (found.by !== null) return { learner_id: found.id, matched: found.by };
      const staff = row.email !== null && isStaff.get(row.email.trim()) !== undefined;
      return { learner_id: null, matched: staff ? 'staff' : null };
    },
  };
}

/**
 * Stores a row of a session; one that is there already is brought up to date. Whom it is about is said anew only where
 * nobody has settled it.
 */
export function storePresence(
  raw: RawConnection,
  sessionId: number,
  row: NewPresence,
  { match }: RowMatcher,
): { result: 'new' | 'changed' | 'same'; matched: MatchedBy | null } {
  const { person, email, entered, left } = row;
  const known = prepared(
    raw,
    `SELECT * FROM presence_row WHERE session_id = @sessionId AND entered = @entered AND person = @person
       AND (email IS @email OR email IS NULL OR @email IS NULL) ORDER BY email IS NOT @email LIMIT 1`,
  ).get({ sessionId, entered, person, email }) as PresenceRow | undefined;
  if (!known) {
    const { learner_id, matched } = match(row);
    prepared(
      raw,
      `INSERT INTO presence_row (session_id, person, folded, email, entered, "left", learner_id, matched)
       VALUES (@sessionId, @person, @folded, @email, @entered, @left, @learner_id, @matched)`,
    ).run({ sessionId, person, folded: foldName(person), email, entered, left, learner_id, matched });
    return { result: 'new', matched };
  }
  const next = { email: email ?? known.email, left: left ?? known.left };
  if (next.email === known.email && next.left === known.left) return { result: 'same', matched: known.matched };
  const found = known.matched === null ? match({ person, email: next.email }) : known;
  prepared(
    raw,
    'UPDATE presence_row SET email = @email, "left" = @left, learner_id = @learner_id, matched = @matched WHERE id = @id',
  ).run({ ...next, learner_id: found.learner_id, matched: found.matched, id: known.id });
  return { result: 'changed', matched: found.matched };
}

/** What the rows of a session come to, for each of its learners. */
function presenceOfSession(raw: RawConnection, sessionId: number): RowOf<'presence'>[] {
  const session = prepared(raw, 'SELECT starts_at AS start, ends_at AS "end" FROM session WHERE id = ?').get(
    sessionId,
  ) as SessionTime;
  const rows = prepared(
    raw,
    'SELECT learner_id, entered, "left" FROM presence_row WHERE session_id = ? AND learner_id IS NOT NULL ORDER BY entered',
  ).all(sessionId) as (Interval & { learner_id: number })[];
  return [...groupBy(rows, (row) => row.learner_id)].map(([learner_id, intervals]) => {
    const { ms, firstIn, lastOut, reconnects, longestGapMs, isOpen } = presenceOf(intervals, session);
    return {
      session_id: sessionId,
      learner_id,
      ms,
      first_in: firstIn,
      last_out: lastOut,
      reconnects,
      longest_gap_ms: longestGapMs,
      is_open: Number(isOpen),
    };
  });
}

function storedPresence(raw: RawConnection, sessionId: number): RowOf<'presence'>[] {
  return prepared(raw, 'SELECT * FROM presence WHERE session_id = ?').all(sessionId) as RowOf<'presence'>[];
}

/** Learners of a session of whom what is stored is not what their rows come to. */
function differing(raw: RawConnection, sessionId: number): { fresh: RowOf<'presence'>[]; gone: number[] } {
  const before = new Map(storedPresence(raw, sessionId).map((row) => [row.learner_id, JSON.stringify(row)]));
  const fresh = presenceOfSession(raw, sessionId).filter((row) => {
    const old = before.get(row.learner_id);
    before.delete(row.learner_id);
    return old !== JSON.stringify(row);
  });
  return { fresh, gone: [...before.keys()] };
}

/**
 * Works out anew what the rows of a session come to, for all of its learners.
 * @returns the learners of whom something has changed
 */
function derivePresence(raw: RawConnection, sessionId: number): number[] {
  const { fresh, gone } = differing(raw, sessionId);
  for (const row of fresh) {
    prepared(
      raw,
      `INSERT OR REPLACE INTO presence (session_id, learner_id, ms, first_in, last_out, reconnects, longest_gap_ms, is_open)
       VALUES (@session_id, @learner_id, @ms, @first_in, @last_out, @reconnects, @longest_gap_ms, @is_open)`,
    ).run(row);
  }
  for (const learner of gone)
    prepared(raw, 'DELETE FROM presence WHERE session_id = ? AND learner_id = ?').run(sessionId, learner);
  return [...fresh.map((row) => row.learner_id), ...gone];
}

/** Each session whose stored presence is not what its rows give, a line for each. */
export function comparePresence(raw: RawConnection): string[] {
  const sessions = raw
    .prepare('SELECT session_id FROM presence_row UNION SELECT session_id FROM presence')
    .pluck()
    .all() as number[];
  return sessions.flatMap((id) => {
    const { fresh, gone } = differing(raw, id);
    const count = fresh.length + gone.length;
    return count === 0 ? [] : [`presence of session ${id}: ${count} of its learners are not as their rows give`];
  });
}

/** What hangs on the presence and the marks of some learners is made anew: their rows have changed hands. */
export function derivePresenceOf(raw: RawConnection, learnerIds: readonly number[]): void {
  const text = JSON.stringify(learnerIds);
  const sessions = raw
    .prepare(
      `SELECT session_id FROM presence_row WHERE learner_id IN (SELECT value FROM json_each(@text))
       UNION SELECT session_id FROM presence WHERE learner_id IN (SELECT value FROM json_each(@text))`,
    )
    .pluck()
    .all({ text }) as number[];
  derivePresenceAnew(raw, sessions);
  const marked = raw
    .prepare('SELECT session_id, learner_id FROM attendance WHERE learner_id IN (SELECT value FROM json_each(?))')
    .raw()
    .all(text) as [number, number][];
  for (const [sessionId, learnerId] of marked) staleMark(raw, sessionId, learnerId);
}

/** Learners of a session whose drift is noted one by one; of more, the course's is. */
const ONE_BY_ONE = 20;

/** The same, and the drift of those of whom something has changed is read anew. */
export function derivePresenceAnew(raw: RawConnection, sessionIds: Iterable<number>): void {
  const many: number[] = [];
  for (const sessionId of sessionIds) {
    const changed = derivePresence(raw, sessionId);
    if (changed.length > ONE_BY_ONE) many.push(sessionId);
    else for (const learnerId of changed) stalePresence(raw, sessionId, learnerId);
  }
  if (many.length > 0) staleSessions(raw, many);
}

/** Rows of a course that nobody is known for are looked at once more: somebody was enrolled, or a name was settled. */
export function rematchCourse(raw: RawConnection, courseId: number): void {
  const rows = prepared(
    raw,
    `SELECT r.* FROM session s JOIN presence_row r ON r.session_id = s.id WHERE s.course_id = ? AND r.matched IS NULL`,
  ).all(courseId) as PresenceRow[];
  if (rows.length === 0) return;
  const { match } = openMatcher(raw, courseId);
  const touched = new Set<number>();
  for (const row of rows) {
    const { learner_id, matched } = match(row);
    if (matched === null) continue;
    prepared(raw, 'UPDATE presence_row SET learner_id = ?, matched = ? WHERE id = ?').run(learner_id, matched, row.id);
    touched.add(row.session_id);
  }
  derivePresenceAnew(raw, touched);
  staleSessions(raw, touched);
}

/** What a name stood for before somebody settled it. */
export interface AliasBefore {
  learner_id: number | null;
}

/**
 * Remembers whom a name means in a course, or that it is no learner, and settles every row that has it and that nothing
 * surer tells. @param learnerId null for no learner; undefined to forget it
 * @returns what it stood for before; null for nothing
 */
export function keepAlias(
  raw: RawConnection,
  {
    courseId,
    person,
    learnerId,
    staffId,
    at,
  }: { courseId: number; person: string; learnerId: number | null | undefined; staffId: number; at: number },
): AliasBefore | null {
  const folded = foldName(person);
  const before = prepared(raw, 'SELECT learner_id FROM presence_alias WHERE course_id = ? AND folded = ?').get(
    courseId,
    folded,
  );
  prepared(raw, 'DELETE FROM presence_alias WHERE course_id = ? AND folded = ?').run(courseId, folded);
  if (learnerId !== undefined) {
    prepared(
      raw,
      'INSERT INTO presence_alias (course_id, folded, learner_id, staff_id, at) VALUES (?, ?, ?, ?, ?)',
    ).run(courseId, folded, learnerId, staffId || null, at);
  }
  const rows = prepared(
    raw,
    `SELECT r.* FROM presence_row r JOIN session s ON s.id = r.session_id WHERE r.folded = ? AND s.course_id = ?
       AND (r.matched IS NULL OR r.matched IN ('alias', 'nobody'))`,
  ).all(folded, courseId) as PresenceRow[];
  const { match } = openMatcher(raw, courseId);
  for (const row of rows) {
    const { learner_id, matched } = match(row);
    prepared(raw, 'UPDATE presence_row SET learner_id = ?, matched = ? WHERE id = ?').run(learner_id, matched, row.id);
  }
  const settled = new Set(rows.map((row) => row.session_id));
  derivePresenceAnew(raw, settled);
  // Whoever was not seen may have been among the names without a learner: no longer.
  staleSessions(raw, settled);
  return (before as AliasBefore | undefined) ?? null;
}
