/** Changing the roster by hand: learners, enrolments, and who was not in the last file. */
import { courseIsThere } from '../courses/courses';
import type { EnrolmentStatus } from '@/core/people/enrolment';
import type { Db, RawConnection } from '../db';
import type { LearnerDetails } from './contact-details';
import { personColumns } from '../person';
import { enrolmentInScope, type Viewer } from '../scope';
import { idList, seenEnrolments, type DriftView } from '../view';
import { FROM_THE_BEGINNING, OF_COURSE, noteStaleIn } from '../drift/stale';

/** The id of an organisation by its name, made when it is new; null for none. */
async function organisationId(trx: Db, name: string | null): Promise<number | null> {
  if (name === null) return null;
  const found = await trx('organisation').where({ name }).first('id');
  return found?.id ?? (await trx('organisation').insert({ name }).returning('id'))[0].id;
}

export async function addLearner(trx: Db, externalId: string, details: LearnerDetails): Promise<number> {
  const { organisation, ...columns } = details;
  const [row] = await trx('learner')
    .insert({ external_id: externalId, organisation_id: await organisationId(trx, organisation), ...columns })
    .returning('id');
  return row.id;
}

export async function updateLearner(trx: Db, id: number, changes: Partial<LearnerDetails>): Promise<void> {
  const { organisation, ...columns } = changes;
  const owner = organisation === undefined ? {} : { organisation_id: await organisationId(trx, organisation) };
  const all = { ...columns, ...owner };
  if (Object.keys(all).length > 0) await trx('learner').where({ id }).update(all);
}

export async function learnerIdTaken(db: Db, externalId: string): Promise<boolean> {
  // Whatever its capitals: two ids that differ by them alone would be a slip.
  return Boolean(await db('learner').whereRaw('external_id = ? COLLATE NOCASE', [externalId]).first('id'));
}

export interface StoredEnrolment {
  id: number;
  learner_id: number;
  course_id: number;
  course: string;
  group: string | null;
  status: EnrolmentStatus | 'merged';
  enrolled_day: number;
  ended_day: number | null;
}

function enrolments(db: Db) {
  return db('enrolment')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('course_group as g', 'g.id', 'enrolment.group_id')
    .select(
      'enrolment.id',
      'enrolment.learner_id',
      'enrolment.course_id',
      'course.code as course',
      'g.name as group',
      'enrolment.status',
      'enrolment.enrolled_day',
      'enrolment.ended_day',
    );
}

/** Those of the enrolments that the viewer may see. */
export async function enrolmentsById(db: Db, viewer: Viewer, ids: readonly number[]): Promise<StoredEnrolment[]> {
  return enrolments(db).whereIn('enrolment.id', idList(db, ids)).where(enrolmentInScope(viewer));
}

/** Active enrolments in view of some learners. */
export async function activeEnrolmentIds(db: Db, view: DriftView, learnerIds: readonly number[]): Promise<number[]> {
  return seenEnrolments(db, view).whereIn('enrolment.learner_id', idList(db, learnerIds)).pluck('enrolment.id');
}

export async function findEnrolment(db: Db, learnerId: number, courseId: number): Promise<StoredEnrolment | null> {
  const where = { 'enrolment.learner_id': learnerId, 'enrolment.course_id': courseId };
  return (await enrolments(db).where(where).first()) ?? null;
}

export async function courseByCode(db: Db, code: string): Promise<{ id: number; code: string } | null> {
  return (await db('course').where({ code }).first('id', 'code')) ?? null;
}

/** Every course with its groups, for forms. */
export async function coursesWithGroups(db: Db): Promise<{ code: string; title: string; groups: string[] }[]> {
  const rows = await db('course')
    .leftJoin('course_group as g', 'g.course_id', 'course.id')
    .whereRaw(courseIsThere('course'))
    .groupBy('course.id')
    .orderBy('course.code')
    .select('course.code', 'course.title', db.raw('json_group_array(g.name ORDER BY g.name) AS groups'));
  return rows.map((row) => ({
    ...row,
    groups: (JSON.parse(row.groups) as (string | null)[]).filter((name) => name !== null),
  }));
}

/** The id of a course's group by its name, made when it is new; null for none. */
export async function groupId(trx: Db, courseId: number, name: string | null): Promise<number | null> {
  if (name === null) return null;
  const found = await trx('course_group').where({ course_id: courseId, name }).first('id');
  return found?.id ?? (await trx('course_group').insert({ course_id: courseId, name }).returning('id'))[0].id;
}

export async function addEnrolment(
  trx: Db,
  enrolment: { learner_id: number; course_id: number; group_id: number | null; enrolled_day: number },
): Promise<number> {
  const [row] = await trx('enrolment')
    .insert({ ...enrolment, status: 'active' })
    .returning('id');
  return row.id;
}

export async function updateEnrolment(
  trx: Db,
  id: number,
  changes: Partial<{
    group_id: number | null;
    status: EnrolmentStatus;
    enrolled_day: number;
    ended_day: number | null;
  }>,
): Promise<void> {
  await trx('enrolment').where({ id }).update(changes);
}

/** Has a course's drift read anew: who is in it, or in which group, has changed. */
export async function noteCourseStale(trx: Db, courseId: number): Promise<void> {
  await noteStaleIn(trx, OF_COURSE, { courseId, fromDay: FROM_THE_BEGINNING });
}

interface MissingRow {
  enrolment: number;
  learner_id: string;
  name: string;
  course: string;
  group: string | null;
  enrolled_day: number;
  /** Never in any file: added by hand. */
  by_hand: number;
}

export interface Missing {
  file: { name: string; at: number } | null;
  rows: MissingRow[];
}

/**
 * Active enrolments that the last roster file of their course did not have: a file of one course says nothing about another, and
 * hides nothing of it either. With it, the newest file of all.
 */
export async function missingFromLastFile(db: Db, viewer: Viewer): Promise<Missing> {
  const last = await db('import_run')
    .where({ kind: 'roster', state: 'done' })
    .where('accepted', '>=', 0)
    .whereExists(db('enrolment').whereRaw('enrolment.seen_run = import_run.id'))
    .orderBy('id', 'desc')
    .first('id', 'file_name', 'finished_at');
  if (!last) return { file: null, rows: [] };
  const { id, name } = personColumns(viewer);
  const rows = await db('enrolment')
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('course_group as g', 'g.id', 'enrolment.group_id')
    .where('enrolment.status', 'active')
    .join(
      db('enrolment')
        .whereNotNull('seen_run')
        .groupBy('course_id')
        .select('course_id')
        .max('seen_run as run')
        .as('last'),
      'last.course_id',
      'enrolment.course_id',
    )
    .where((not) => not.whereNull('enrolment.seen_run').orWhereRaw('enrolment.seen_run <> last.run'))
    .where(enrolmentInScope(viewer))
    .orderByRaw(`course.code, ${name}, learner.id`)
    .limit(1000)
    .select(
      'enrolment.id as enrolment',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'course.code as course',
      'g.name as group',
      'enrolment.enrolled_day',
      db.raw('enrolment.seen_run IS NULL AS by_hand'),
    );
  return { file: { name: last.file_name, at: last.finished_at! }, rows };
}

/** Is or was a learner in a course? */
export async function isEnrolled(db: Db, learnerId: number, courseId: number): Promise<boolean> {
  const found = await db('enrolment')
    .where({ learner_id: learnerId, course_id: courseId })
    .whereNot('status', 'merged')
    .first('id');
  return found !== undefined;
}

/** Is anybody known yet? */
export function hasAnyLearner(raw: RawConnection): boolean {
  return raw.prepare('SELECT EXISTS (SELECT 1 FROM learner)').pluck().get() === 1;
}
