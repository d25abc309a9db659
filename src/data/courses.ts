/** Courses, groups, organisations and what falls due in them. */
import type { Db } from './db';
import { enrolmentInLens, enrolmentInScope, partInScope, type Lens, type Looking, type Viewer } from './scope';

export interface LensChoice {
  /** `course:DRY`, `group:DRY/A`, `organisation:Name`. */
  key: string;
  label: string;
  lens: Lens;
  learners: number;
}

/** Every part of their caseload a viewer can look at, with how many active learners it has. */
export async function lensChoices(db: Db, viewer: Viewer): Promise<LensChoice[]> {
  const seen = () => db('enrolment').where('enrolment.status', 'active').where(enrolmentInScope(viewer));
  const [courses, groups, organisations] = await Promise.all([
    seen()
      .join('course', 'course.id', 'enrolment.course_id')
      .groupBy('course.id')
      .orderBy('course.title')
      .select('course.id', 'course.code', 'course.title', db.raw('count(DISTINCT learner_id) AS learners')),
    seen()
      .join('course_group as g', 'g.id', 'enrolment.group_id')
      .join('course', 'course.id', 'g.course_id')
      .groupBy('g.id')
      .orderBy(['course.title', 'g.name'])
      .select('g.id', 'g.name', 'course.code', 'course.title', db.raw('count(DISTINCT learner_id) AS learners')),
    seen()
      .join('learner', 'learner.id', 'enrolment.learner_id')
      .join('organisation', 'organisation.id', 'learner.organisation_id')
      .groupBy('organisation.id')
      .orderBy('organisation.name')
      .select('organisation.id', 'organisation.name', db.raw('count(DISTINCT learner_id) AS learners')),
  ]);
  return [
    ...courses.map((c) => ({
      key: `course:${c.code}`,
      label: c.title,
      lens: { courseId: c.id },
      learners: c.learners,
    })),
    ...groups.map((g) => ({
      key: `group:${g.code}/${g.name}`,
      label: `${g.title} · ${sayGroup(g.name)}`,
      lens: { groupId: g.id, courseId: undefined },
      learners: g.learners,
    })),
    ...organisations.map((o) => ({
      key: `organisation:${o.name}`,
      label: o.name,
      lens: { organisationId: o.id },
      learners: o.learners,
    })),
  ];
}

/** "Group A" for a bare letter or number, else the name as it is. */
export function sayGroup(name: string): string {
  return /^.{1,2}$/.test(name) ? `Group ${name}` : name;
}

/** The ids behind a course code and a group's and organisation's name; null when the viewer has none such. */
export async function findLens(
  db: Db,
  viewer: Viewer,
  names: { course?: string; group?: string; organisation?: string },
): Promise<Lens | null> {
  const lens: Lens = {};
  if (names.course !== undefined) {
    const course = await db('course')
      .where('code', names.course)
      .where(partInScope(db, viewer, 'course', 'course.id'))
      .first('id');
    if (!course) return null;
    lens.courseId = course.id;
  }
  if (names.group !== undefined) {
    const at = names.group.indexOf('/');
    const [first, rest] = at < 0 ? [names.course, names.group] : [names.group.slice(0, at), names.group.slice(at + 1)];
    const group = await db('course_group')
      .join('course', 'course.id', 'course_group.course_id')
      .where('course_group.name', rest)
      .where('course.code', first ?? '')
      .where((either) => {
        either.where(partInScope(db, viewer, 'group', 'course_group.id'));
        if (!viewer.all) either.orWhereIn('course.id', viewer.courses as number[]);
      })
      .first('course_group.id');
    if (!group) return null;
    lens.groupId = group.id;
  }
  if (names.organisation !== undefined) {
    const organisation = await db('organisation')
      .where('name', names.organisation)
      .where(partInScope(db, viewer, 'organisation', 'organisation.id'))
      .first('id');
    if (!organisation) return null;
    lens.organisationId = organisation.id;
  }
  return lens;
}

/** When required items fall due, by course. */
export async function dueDates(db: Db, courseIds: readonly number[], from: number, to: number) {
  return (await db('item')
    .whereIn('course_id', courseIds as number[])
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

/** Takes a break away; returns what it was, or null when there is none such. */
export async function removeBreak(trx: Db, id: number): Promise<BreakRow | null> {
  const row = await breakRows(trx).where('course_break.id', id).first();
  if (row) await trx('course_break').where({ id }).delete();
  return row ?? null;
}

/** The last event of the source that is furthest behind, of those that feed anything; null before any. */
export async function logsCompleteTo(db: Db): Promise<number | null> {
  const row = await db('source').whereNotNull('last_event_at').min('last_event_at as at').first();
  return (row?.at as number | undefined) ?? null;
}

/** The first required item to fall due in each course after an instant. */
export async function nextDue(db: Db, courseIds: readonly number[], after: number) {
  const rows = (await db('item')
    .whereIn('course_id', courseIds as number[])
    .where('due_at', '>', after)
    .groupBy('course_id')
    // With min(), SQLite gives the other columns of the row that has it.
    .select('course_id', 'title', db.raw('min(due_at) AS due_at'))) as {
    course_id: number;
    title: string;
    due_at: number;
  }[];
  return new Map(rows.map((row) => [row.course_id, row]));
}

/** Sessions of the courses in view that the outline gives a time in a period, the first to begin first. */
export async function sessionTimes(db: Db, { viewer, lens }: Looking, from: number, to: number) {
  return (await db('item')
    .join('course', 'course.id', 'item.course_id')
    .where('item.kind', 'session')
    .where('item.opens_at', '>=', from)
    .where('item.opens_at', '<', to)
    .whereIn(
      'item.course_id',
      db('enrolment').where(enrolmentInScope(viewer)).where(enrolmentInLens(lens)).distinct('course_id'),
    )
    .orderBy('item.opens_at')
    .select('course.code as course', 'item.title', 'item.opens_at as from', 'item.due_at as to')) as {
    course: string;
    title: string;
    from: number;
    to: number | null;
  }[];
}

/** The course that a group belongs to, by the group's id. */
export async function courseOfGroup(db: Db, groupId: number): Promise<number> {
  return (await db('course_group').where('id', groupId).first('course_id')).course_id;
}

/** Items of a course in which the viewer sees somebody, in outline order. */
export async function courseItems(db: Db, viewer: Viewer, code: string) {
  return (await db('item')
    .join('course', 'course.id', 'item.course_id')
    .leftJoin('unit', 'unit.id', 'item.unit_id')
    .where('course.code', code)
    .whereIn('item.course_id', db('enrolment').where(enrolmentInScope(viewer)).distinct('course_id'))
    .orderBy(['item.position', 'item.id'])
    .select('item.external_id as item_id', 'item.title', 'unit.title as unit')) as {
    item_id: string;
    title: string;
    unit: string | null;
  }[];
}
