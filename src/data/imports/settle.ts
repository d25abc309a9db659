/** Who and what another system's file names: found, or made where that was asked for, before any of its rows is taken. */
import { guessItemKind } from '@/core/imports/foreign/item-kind';
import { titleOf, withoutKind, withoutShared } from '@/core/imports/foreign/item-titles';
import { foldWord } from '@/core/imports/foreign/words';
import type { Plan } from '@/core/imports/foreign/plan';
import type { SeenItem, Survey } from '@/core/imports/foreign/survey';
import type { Settled } from '@/core/imports/foreign/translate';
import { isoFromForeign } from '@/core/imports/foreign/when';
import { parseInstant } from '@/core/time/instant';
import { HOUR, dayOf, startOfDay } from '@/core/time/zone';
import { prepared, type RawConnection } from '../db';
import { openPeople, type Made, type SettledPerson } from './settle-people';

export interface SettledFile extends Settled {
  made: Made;
  /** Titles of items that no item is known by, before any was made. */
  unknownItems: string[];
}

/** Titles that are named to whoever looks. */
const MOST_UNKNOWN = 200;

interface Context {
  /** Null for a look that is taken back. */
  runId: number | null;
  /** Day of enrolments that are made. */
  day: number;
  /** Of times without an offset. */
  timezone: string;
}

interface CourseRow {
  id: number;
  code: string;
  title: string;
}

/** Every course by its code, and by its title where no other has it. */
function openCourses(raw: RawConnection) {
  const rows = raw.prepare('SELECT id, code, title FROM course').all() as CourseRow[];
  const exact = new Map(rows.map((row) => [row.code, row]));
  const byFold = (of: (row: CourseRow) => string) => {
    const folded = new Map<string, CourseRow | null>();
    for (const row of rows) folded.set(foldWord(of(row)), folded.has(foldWord(of(row))) ? null : row);
    return folded;
  };
  const [codes, titles] = [byFold(({ code }) => code), byFold(({ title }) => title)];
  return { find: (text: string) => exact.get(text) ?? codes.get(foldWord(text)) ?? titles.get(foldWord(text)) ?? null };
}

/**
 * The course that a text names: by its code, else by its title where one alone has it.
 * @returns its id and code; null where there is none
 */
export function courseByText(raw: RawConnection, text: string): { id: number; code: string } | null {
  return openCourses(raw).find(text);
}

const CODE = 200;

function makeCourse(raw: RawConnection, text: string, runId: number | null): CourseRow {
  // A stroke stands between a course and its group.
  const code = text.replaceAll('/', '-').slice(0, CODE);
  const { lastInsertRowid } = prepared(raw, 'INSERT INTO course (code, title, provisional) VALUES (?, ?, ?)').run(
    code,
    text,
    runId,
  );
  return { id: Number(lastInsertRowid), code, title: text };
}

/** Items of a course by the texts that a file has for them. */
function settleItems(
  raw: RawConnection,
  course: CourseRow,
  seen: readonly SeenItem[],
  { create, itemsSaid = {} }: Pick<Plan, 'create' | 'itemsSaid'>,
  runId: number | null,
  made: Made,
  unknown: string[],
): Map<string, string | 'several'> {
  const rows = prepared(
    raw,
    'SELECT external_id, title, removed_at FROM item WHERE course_id = ? ORDER BY removed_at IS NOT NULL, position',
  ).all(course.id) as { external_id: string; title: string; removed_at: number | null }[];
  const ids = new Set(rows.map((row) => row.external_id));
  const titles = new Map<string, string | 'several'>();
  for (const { external_id, title, removed_at } of rows) {
    const folded = foldWord(title);
    if (!titles.has(folded)) titles.set(folded, external_id);
    else if (removed_at === null) titles.set(folded, 'several');
  }
  const add = prepared(
    raw,
    `INSERT INTO item (course_id, external_id, title, kind, required, points, position, provisional)
     SELECT @course, @id, @title, @kind, 0, @points, ifnull(max(position), 0) + 1, @runId FROM item WHERE course_id = @course`,
  );
  const settled = new Map<string, string | 'several'>();
  const bare = withoutShared(seen.map(({ title }) => title));
  // Two of one name but of two kinds are two: neither is told by its name.
  const names = bare.map((title) => foldWord(withoutKind(title) ?? title));
  const isOnly = (index: number) => names.indexOf(names[index]) === names.lastIndexOf(names[index]);
  for (const [index, { title, points, actions, isScored }] of seen.entries()) {
    const folded = foldWord(title);
    const said = Object.hasOwn(itemsSaid, title) ? itemsSaid[title] : null;
    // Its title as it stands, without what all of them share, without the name of its kind.
    const likely = [title, bare[index], isOnly(index) ? withoutKind(bare[index]) : null].flatMap((one) =>
      one === null ? [] : (titles.get(foldWord(one)) ?? []),
    );
    const isCourse = folded === foldWord(course.title) || folded === foldWord(course.code);
    const found =
      said !== null && ids.has(said) ? said : ids.has(title) ? title : (likely[0] ?? (isCourse ? '' : null));
    if (found === null && unknown.length < MOST_UNKNOWN) unknown.push(title);
    if (found !== null) settled.set(title, found);
    else if (create) {
      const id = title.slice(0, CODE);
      const called = titleOf(title, bare[index]);
      add.run({ course: course.id, id, title: called, kind: guessItemKind(called, actions, isScored), points, runId });
      made.items += 1;
      ids.add(id);
      titles.set(folded, id);
      settled.set(title, id);
    }
    // What an item is out of is known from the gradebook where no outline tells.
    if (points !== null && typeof found === 'string' && found !== '' && found !== 'several')
      prepared(
        raw,
        'UPDATE item SET points = ? WHERE course_id = ? AND external_id = ? AND points IS NULL AND provisional IS NOT NULL',
      ).run(points, course.id, found);
  }
  return settled;
}

/** How far from its session a meeting may have begun. */
const NEAR = 2 * HOUR;

/** The session that a list of who was there is of. @param first the first instant that its rows name */
function openSessions(
  raw: RawConnection,
  { meeting, course, dates }: Plan,
  { find }: ReturnType<typeof openCourses>,
  timezone: string,
  first: string,
) {
  const session = 'id, external_id, starts_at, ends_at';
  type Row = { external_id: string; starts_at: number; ends_at: number };
  const told = (row: Row | undefined) =>
    row === undefined ? null : { id: row.external_id, startsAt: row.starts_at, endsAt: row.ends_at };
  const byId = prepared(raw, `SELECT ${session} FROM session WHERE external_id = ? AND removed_at IS NULL`);
  const began = meeting?.startsAt ? isoFromForeign(meeting.startsAt, dates) : first;
  const at = began === '' ? null : parseInstant(began, timezone);
  const courseId = course === null ? null : (find(course)?.id ?? null);
  const near = prepared(
    raw,
    `SELECT ${session} FROM session WHERE removed_at IS NULL AND (@courseId IS NULL OR course_id = @courseId)
       AND starts_at BETWEEN @at - ${NEAR} AND @at + ${NEAR} ORDER BY abs(starts_at - @at), id LIMIT 2`,
  );
  const ofWhole = (() => {
    if (meeting?.sessionId) return told(byId.get(meeting.sessionId) as Row | undefined);
    if (at === null) return null;
    const [first, second] = near.all({ courseId, at }) as Row[];
    // Two that are as near are not told apart by when it began.
    if (second && Math.abs(second.starts_at - at) === Math.abs(first.starts_at - at)) return null;
    return told(first);
  })();
  return (text: string) => (text === '' ? ofWhole : told(byId.get(text) as Row | undefined));
}

interface SessionOfDay {
  external_id: string;
  starts_at: number;
  group_id: number | null;
}

/** Finds the session of a register's column: of its day, by its time where it has one, and of the learner's group. */
function openSessionDays(raw: RawConnection, timezone: string): Settled['sessionOn'] {
  const between = prepared(
    raw,
    `SELECT s.external_id, s.starts_at, s.group_id FROM session s JOIN course c ON c.id = s.course_id
     WHERE c.code = ? AND s.removed_at IS NULL AND s.cancelled = 0 AND s.starts_at >= ? AND s.starts_at < ? ORDER BY s.starts_at, s.id`,
  );
  const groupOf = prepared(
    raw,
    `SELECT e.group_id FROM enrolment e JOIN course c ON c.id = e.course_id JOIN learner l ON l.id = e.learner_id
     WHERE c.code = ? AND l.external_id = ?`,
  ).pluck();
  const known = new Map<string, SessionOfDay[]>();
  return (course, iso, learner) => {
    const key = JSON.stringify([course, iso]);
    let sessions = known.get(key);
    if (!sessions) {
      const at = parseInstant(iso, timezone);
      if (at === null) return null;
      const from = startOfDay(dayOf(at, timezone), timezone);
      sessions = between.all(course, from, startOfDay(dayOf(at, timezone) + 1, timezone)) as SessionOfDay[];
      if (iso.length > 10) sessions = sessions.filter(({ starts_at }) => Math.abs(starts_at - at) <= NEAR);
      if (sessions.length > 0) known.set(key, sessions);
    }
    if (sessions.length > 1) {
      const group = groupOf.get(course, learner) as number | null | undefined;
      sessions = sessions.filter(({ group_id }) => group_id === null || group_id === group);
    }
    return sessions.length === 1 ? sessions[0].external_id : null;
  };
}

/**
 * Settles who and what a file names, inside the caller's write transaction. Done again for the same file it finds what it has
 * made.
 */
export function settleFile(raw: RawConnection, plan: Plan, survey: Survey, context: Context): SettledFile {
  const made: Made = { learners: 0, enrolments: 0, courses: 0, items: 0 };
  const { create } = plan;
  const unknownItems: string[] = [];
  const { runId } = context;
  const known = openCourses(raw);
  const courses = new Map<string, CourseRow | null>();
  const people = new Map<string, Map<string, SettledPerson>>();
  const items = new Map<string, Map<string, string | 'several'>>();
  const isOneRowEach = plan.kind === 'participants' || plan.items.length > 0;
  const settlePeople = openPeople(raw, { create, runId, day: context.day, isOneRowEach }, made);
  for (const [text, seen] of plan.kind === 'presence' && !create ? [] : survey.courses) {
    let course = text === '' ? null : known.find(text);
    if (course === null && text !== '' && create) {
      course = makeCourse(raw, text, runId);
      made.courses += 1;
    }
    courses.set(text, course);
    people.set(text, settlePeople(course?.id ?? null, seen.people));
    if (course) {
      const ofText = settleItems(raw, course, [...seen.items.values()], plan, runId, made, unknownItems);
      // Two texts may name one course: by its code and by its title.
      items.set(course.code, new Map([...(items.get(course.code) ?? []), ...ofText]));
    }
  }
  const session = openSessions(raw, plan, known, context.timezone, survey.meeting.first);
  return {
    made,
    unknownItems,
    course: (text) => courses.get(text)?.code ?? null,
    person: (course, key) => people.get(course)?.get(key) ?? 'waits',
    item: (course, title) => items.get(course)?.get(title) ?? null,
    session,
    sessionOn: openSessionDays(raw, context.timezone),
  };
}
