/** Courses, groups, organisations and what falls due in them. */
import type { Db, RawConnection } from '../db';
import {
  enrolmentInSegment,
  enrolmentInScope,
  segmentInScope,
  sessionInSegment,
  sessionInScope,
  type Segment,
  type ViewScope,
  type Viewer,
} from '../scope';

export interface SegmentChoice {
  /** `course:DRY`, `group:DRY/A`, `organisation:Name`. */
  key: string;
  label: string;
  segment: Segment;
}

/** Every part of their caseload a viewer can look at: those with active learners of theirs. */
export async function segmentChoices(db: Db, viewer: Viewer): Promise<SegmentChoice[]> {
  const [courses, groups, organisations] = await Promise.all([
    seenCourses(db, viewer).select('course.id', 'course.code', 'course.title'),
    db('course_group as g')
      .join('course', 'course.id', 'g.course_id')
      .whereIn('g.id', activeSeen(db, viewer).select('enrolment.group_id'))
      .orderBy(['course.title', 'g.name'])
      .select('g.id', 'g.name', 'course.code', 'course.title'),
    db('organisation')
      .whereIn(
        'organisation.id',
        activeSeen(db, viewer).join('learner', 'learner.id', 'enrolment.learner_id').select('learner.organisation_id'),
      )
      .orderBy('organisation.name')
      .select('organisation.id', 'organisation.name'),
  ]);
  return [
    ...courses.map(({ id, code, title }) => ({ key: `course:${code}`, label: title, segment: { courseId: id } })),
    ...groups.map((g) => ({ key: `group:${g.code}/${g.name}`, label: labelOfGroup(g), segment: { groupId: g.id } })),
    ...organisations.map((o) => ({ key: `organisation:${o.name}`, label: o.name, segment: { organisationId: o.id } })),
  ];
}

/** The courses in which a viewer sees active learners, by title. */
export async function coursesSeen(db: Db, viewer: Viewer): Promise<{ code: string; title: string }[]> {
  return seenCourses(db, viewer).select('course.code', 'course.title');
}

function seenCourses(db: Db, viewer: Viewer) {
  return db('course')
    .whereIn('course.id', activeSeen(db, viewer).select('enrolment.course_id'))
    .orderBy('course.title');
}

/** Active enrolments in scope: gone through once for all parts, and not once for each. */
function activeSeen(db: Db, viewer: Viewer) {
  return db('enrolment').where('enrolment.status', 'active').where(enrolmentInScope(viewer));
}

/** The choices with how many active learners each has: it grows with the caseload, so it is asked when it is shown. */
export async function countedChoices(db: Db, viewer: Viewer): Promise<(SegmentChoice & { learners: number })[]> {
  const seen = (id: string) =>
    activeSeen(db, viewer)
      .groupBy(id)
      .select(`${id} as id`, db.raw('count(DISTINCT enrolment.learner_id) AS learners'));
  const [choices, courses, groups, organisations] = await Promise.all([
    segmentChoices(db, viewer),
    seen('enrolment.course_id'),
    seen('enrolment.group_id'),
    seen('learner.organisation_id').join('learner', 'learner.id', 'enrolment.learner_id'),
  ]);
  const counts = [courses, groups, organisations].map((rows) => new Map(rows.map((row) => [row.id, row.learners])));
  return choices.map((choice) => {
    const { courseId, groupId, organisationId } = choice.segment;
    const [ofCourse, ofGroup, ofOrganisation] = counts;
    const learners = ofCourse.get(courseId) ?? ofGroup.get(groupId) ?? ofOrganisation.get(organisationId) ?? 0;
    return { ...choice, learners };
  });
}

/** What the part looked at is called; null for the whole caseload. */
export async function segmentLabel(db: Db, { courseId, groupId, organisationId }: Segment): Promise<string | null> {
  if (groupId !== undefined) {
    const group = await db('course_group as g')
      .join('course', 'course.id', 'g.course_id')
      .where('g.id', groupId)
      .first('g.name', 'course.title');
    return labelOfGroup(group);
  }
  if (courseId !== undefined) {
    const [title] = await db('course').where('id', courseId).pluck('title');
    return title;
  }
  if (organisationId === undefined) return null;
  const [name] = await db('organisation').where('id', organisationId).pluck('name');
  return name;
}

function labelOfGroup({ title, name }: { title: string; name: string }): string {
  return `${title} · ${sayGroup(name)}`;
}

/** "Group A" for a bare letter or number, else the name as it is. */
export function sayGroup(name: string): string {
  return /^.{1,2}$/.test(name) ? `Group ${name}` : name;
}

/** The ids behind a course code and a group's and organisation's name; null when the viewer has none such. */
export async function findSegment(
  db: Db,
  viewer: Viewer,
  names: { course?: string; group?: string; organisation?: string },
): Promise<Segment | null> {
  const segment: Segment = {};
  if (names.course !== undefined) {
    const course = await db('course')
      .where('code', names.course)
      .where(segmentInScope(db, viewer, 'course', 'course.id'))
      .first('id');
    if (!course) return null;
    segment.courseId = course.id;
  }
  if (names.group !== undefined) {
    const at = names.group.indexOf('/');
    const [first, rest] = at < 0 ? [names.course, names.group] : [names.group.slice(0, at), names.group.slice(at + 1)];
    const group = await db('course_group')
      .join('course', 'course.id', 'course_group.course_id')
      .where('course_group.name', rest)
      .where('course.code', first ?? '')
      .where((either) => {
        either.where(segmentInScope(db, viewer, 'group', 'course_group.id'));
        if (!viewer.all) either.orWhereIn('course.id', viewer.courses);
      })
      .first('course_group.id');
    if (!group) return null;
    segment.groupId = group.id;
  }
  if (names.organisation !== undefined) {
    const organisation = await db('organisation')
      .where('name', names.organisation)
      .where(segmentInScope(db, viewer, 'organisation', 'organisation.id'))
      .first('id');
    if (!organisation) return null;
    segment.organisationId = organisation.id;
  }
  return segment;
}

/** When required items fall due, by course. */
export async function dueDates(db: Db, courseIds: readonly number[], from: number, to: number) {
  return (await db('item')
    .whereIn('course_id', courseIds)
    .whereNull('removed_at')
    .whereBetween('due_at', [from, to])
    .orderBy('due_at')
    .select('course_id', 'due_at', 'title')) as { course_id: number; due_at: number; title: string }[];
}

/** Every course there is, by title. */
export async function listCourses(db: Db): Promise<{ code: string; title: string }[]> {
  return db('course').orderBy(['title', 'code']).select('code', 'title');
}

/** Adds days on which a course rests. The course's id; null when there is none with that code. */
export async function addBreak(
  db: Db,
  code: string,
  fromDay: number,
  toDay: number,
  reason: string,
): Promise<number | null> {
  const course = await db('course').where({ code }).first('id');
  if (!course) return null;
  await db('course_break')
    .insert({ course_id: course.id, from_day: fromDay, to_day: toDay, reason })
    .onConflict(['course_id', 'from_day', 'to_day'])
    .merge();
  return course.id;
}

export interface BreakRow {
  id: number;
  course_id: number;
  course: string;
  from_day: number;
  /** Included. */
  to_day: number;
  reason: string;
}

function breakRows(db: Db) {
  return db('course_break')
    .join('course', 'course.id', 'course_break.course_id')
    .select('course_break.*', 'course.code as course');
}

/** Every break, the latest first. */
export async function listBreaks(db: Db): Promise<BreakRow[]> {
  return breakRows(db).orderBy([{ column: 'from_day', order: 'desc' }, { column: 'course.code' }]);
}

/** Breaks of courses in view that touch some days, both included. */
export async function breaksBetween(
  db: Db,
  { viewer, segment }: ViewScope,
  from: number,
  to: number,
): Promise<BreakRow[]> {
  return breakRows(db)
    .where('from_day', '<=', to)
    .where('to_day', '>=', from)
    .whereIn(
      'course_break.course_id',
      db('enrolment').where(enrolmentInScope(viewer)).where(enrolmentInSegment(segment)).distinct('course_id'),
    )
    .orderBy('course.code');
}

/** Takes a break away; returns what it was, or null when there is none such. */
export async function deleteBreak(trx: Db, id: number): Promise<BreakRow | null> {
  const row = await breakRows(trx).where('course_break.id', id).first();
  if (row) await trx('course_break').where({ id }).delete();
  return row ?? null;
}

/**
 * The last event of the source that is furthest behind, of those that feed a course which has not ended; null before any.
 * @param today a course whose last day lies before it has ended
 */
export async function logsCompleteTo(db: Db, today: number): Promise<number | null> {
  const row = await db('source')
    .whereNotNull('last_event_at')
    .whereExists(
      db('source_course')
        .join('course', 'course.id', 'source_course.course_id')
        .whereRaw('source_course.source_id = source.id')
        .where((goesOn) => goesOn.whereNull('course.ends_day').orWhere('course.ends_day', '>=', today)),
    )
    .min('last_event_at as at')
    .first();
  return (row?.at as number | undefined) ?? null;
}

/** The first required item to fall due in each course after an instant. */
export async function nextDue(db: Db, courseIds: readonly number[], after: number) {
  const rows = (await db('item')
    .whereIn('course_id', courseIds)
    .where('due_at', '>', after)
    .whereNull('removed_at')
    .groupBy('course_id')
    // With min(), SQLite gives the other columns of the row that has it.
    .select('course_id', 'title', db.raw('min(due_at) AS due_at'))) as {
    course_id: number;
    title: string;
    due_at: number;
  }[];
  return new Map(rows.map((row) => [row.course_id, row]));
}

/** A session's times, as periods and the class list go by them. */
export interface SessionTimes {
  /** Null for one that only the outline has. */
  id: number | null;
  session_id: string | null;
  course: string;
  title: string;
  from: number;
  to: number | null;
}

/**
 * Sessions in view that begin in a period and are held, the first to begin first: those of the timetable, and those to
 * which only the outline gives a time.
 */
export async function sessionTimes(
  db: Db,
  { viewer, segment }: ViewScope,
  from: number,
  to: number,
): Promise<SessionTimes[]> {
  const planned = db('session')
    .join('course', 'course.id', 'session.course_id')
    .where('session.starts_at', '>=', from)
    .where('session.starts_at', '<', to)
    .where('session.cancelled', 0)
    .whereNull('session.removed_at')
    .where(sessionInScope(db, viewer))
    .where(sessionInSegment(db, segment))
    .select(
      'session.id',
      'session.external_id as session_id',
      'course.code as course',
      'session.title',
      'session.starts_at as from',
      'session.ends_at as to',
    );
  const outlined = db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('item.kind', 'session')
    .whereNull('item.removed_at')
    .where('item.opens_at', '>=', from)
    .where('item.opens_at', '<', to)
    .whereNotExists(db('session as of').whereRaw('of.item_id = item.id AND of.removed_at IS NULL'))
    .whereIn(
      'item.course_id',
      db('enrolment').where(enrolmentInScope(viewer)).where(enrolmentInSegment(segment)).distinct('course_id'),
    )
    .select(
      db.raw('NULL AS id'),
      db.raw('NULL AS session_id'),
      'course.code as course',
      'item.title',
      'item.opens_at as from',
      'item.due_at as to',
    );
  return db
    .from(planned.unionAll(outlined as never).as('times'))
    .orderBy('from')
    .select('*') as never;
}

/** The course that a group belongs to, by the group's id. */
export async function courseOfGroup(db: Db, groupId: number): Promise<number> {
  const [courseId] = await db('course_group').where('id', groupId).pluck('course_id');
  return courseId;
}

/** Numbers of the courses that have an item of an id. Ids are a course's own: another may have it too. */
export async function coursesOfItem(db: Db, itemId: string): Promise<number[]> {
  return db('item').where('external_id', itemId).pluck('course_id');
}

/** Items of a course in which the viewer sees somebody, in outline order. */
export async function courseItems(db: Db, viewer: Viewer, code: string) {
  return (await db('item')
    .join('course', 'course.id', 'item.course_id')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .where('course.code', code)
    .whereNull('item.removed_at')
    .whereIn('item.course_id', db('enrolment').where(enrolmentInScope(viewer)).distinct('course_id'))
    .orderBy(['item.position', 'item.id'])
    .select('item.external_id as item_id', 'item.title', 'unit.title as unit')) as {
    item_id: string;
    title: string;
    unit: string | null;
  }[];
}

/** Items of a course that fall due between two instants, the first due first. Only of courses in scope. */
export async function itemsDue(
  db: Db,
  viewer: Viewer,
  code: string,
  from: number,
  to: number,
): Promise<{ item_id: string; title: string; due_at: number }[]> {
  return db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('course.code', code)
    .whereNull('item.removed_at')
    .whereIn('item.course_id', db('enrolment').where(enrolmentInScope(viewer)).distinct('course_id'))
    .whereBetween('item.due_at', [from, to])
    .orderBy(['item.due_at', 'item.id'])
    .select('item.external_id as item_id', 'item.title', 'item.due_at');
}

/** CursorSeal that one outline gave to two items: what an import that began anew halfway would leave. */
export function placesTwice(raw: RawConnection): { course: string; position: number }[] {
  return raw
    .prepare(
      `SELECT course.code AS course, item.position FROM item JOIN course ON course.id = item.course_id
       WHERE item.imported_by IS NOT NULL GROUP BY item.course_id, item.imported_by, item.position HAVING count(*) > 1
       ORDER BY course.code, item.position`,
    )
    .all() as { course: string; position: number }[];
}

/** A course's id by its code, whoever asks; null where there is none. */
export async function courseIdOf(db: Db, code: string): Promise<number | null> {
  return (await db('course').where({ code }).first('id'))?.id ?? null;
}

/** The course of a group. */
export async function courseIdOfGroup(db: Db, groupId: number): Promise<number | undefined> {
  const [courseId] = await db('course_group').where('id', groupId).pluck('course_id');
  return courseId;
}

/** Pass marks by the course's id; null where a course has none. */
export async function passMarks(db: Db): Promise<Map<number, number | null>> {
  return new Map((await db('course').select('id', 'pass_mark')).map(({ id, pass_mark }) => [id, pass_mark]));
}

/** Sets what an outline may bring of a course too: its days, its pass mark. */
export async function updateCourse(
  trx: Db,
  courseId: number,
  values: { starts_day?: number | null; ends_day?: number | null; pass_mark?: number | null },
): Promise<void> {
  await trx('course').where('id', courseId).update(values);
}
