/** Learners as lists and pages show them. Everything here is cut to the viewer's scope. */
import type { Knex } from 'knex';
import { DEFAULT_EDGES, LEAVE_MARGIN } from '@/core/drift/bands';
import type { Band } from '@/core/drift/types';
import type { Db } from './db';
import { combinedBand, combinedScore, type Explanation } from './drift';
import { courseRowInScope, enrolmentInLens, enrolmentInScope, learnerInScope, type Lens, type Viewer } from './scope';

/** The scope, the part looked at and the day of the readings. */
export interface View {
  viewer: Viewer;
  lens: Lens;
  /** Day of the readings shown. */
  readingDay: number;
}

/** Enrolments in view. Ended ones only when asked for. */
function seenEnrolments(db: Db, { viewer, lens }: View, status: 'active' | 'all' = 'active') {
  return db('enrolment')
    .where(enrolmentInScope(viewer))
    .where(enrolmentInLens(lens))
    .modify((query) => {
      if (status === 'active') query.where('enrolment.status', 'active');
    });
}

/** Last access and time online of each learner, over the courses in view. */
function accessTotals(db: Db, { viewer, lens }: View) {
  return db('learner_course as lc')
    .where(courseRowInScope(db, viewer, 'lc'))
    .modify((query) => {
      if (lens.courseId !== undefined) query.where('lc.course_id', lens.courseId);
    })
    .groupBy('lc.learner_id')
    .select('lc.learner_id', db.raw('max(lc.last_at) AS last_at'), db.raw('sum(lc.ms) AS ms'));
}

export interface CaseloadRow {
  learnerId: number;
  score: number | null;
  band: Band | null;
  weekAgo: number | null;
  weekAgoBand: Band | null;
  recentContacts: number;
}

/** Everybody in view with an active enrolment: drift now and a week ago, and recent contacts. */
export async function caseload(db: Db, view: View, contactsSince: number): Promise<CaseloadRow[]> {
  return db
    .with('seen', seenEnrolments(db, view).select('enrolment.id', 'enrolment.learner_id'))
    .from('seen')
    .leftJoin('drift_reading as r', (on) => on.on('r.enrolment_id', 'seen.id').andOnVal('r.day', view.readingDay))
    .leftJoin('drift_reading as w', (on) => on.on('w.enrolment_id', 'seen.id').andOnVal('w.day', view.readingDay - 7))
    .groupBy('seen.learner_id')
    .orderBy('seen.learner_id')
    .select(
      'seen.learner_id as learnerId',
      db.raw(`${combinedScore('r')} AS score`),
      db.raw(`${combinedBand(DEFAULT_EDGES, LEAVE_MARGIN, 'r')} AS band`),
      db.raw(`${combinedScore('w')} AS weekAgo`),
      db.raw(`${combinedBand(DEFAULT_EDGES, LEAVE_MARGIN, 'w')} AS weekAgoBand`),
      db.raw(
        `(SELECT count(*) FROM message WHERE message.learner_id = seen.learner_id AND created_at >= ?
          AND state <> 'failed') AS recentContacts`,
        [contactsSince],
      ),
    );
}

export interface LearnerFilter {
  q?: string;
  /** Quiet for N days or more: last access before this instant, or never. */
  lastBefore?: number;
  band?: Band | 'none';
  /** Never accessed, in what is looked at. */
  never?: boolean;
  /** Enrolled, in what is looked at, before this day. */
  enrolledBefore?: number;
  /** Nobody has written to them since this instant. */
  notContactedSince?: number;
  status?: 'active' | 'all';
}

export const LEARNER_SORTS = [
  'name',
  'learner_id',
  'organisation',
  'last_access',
  'days_quiet',
  'minutes_online',
  'drift',
] as const;
export type LearnerSort = (typeof LEARNER_SORTS)[number];

export interface LearnerRow {
  id: number;
  learner_id: string;
  given_name: string;
  family_name: string;
  email: string | null;
  phone: string | null;
  organisation: string | null;
  courses: string[];
  last_at: number | null;
  ms: number;
  score: number | null;
  band: Band | null;
}

/** `%` and `_` in what people type stand for themselves. */
function like(text: string): string {
  return `%${text.replace(/[\\%_]/g, (mark) => `\\${mark}`)}%`;
}

const SORT_COLUMNS: Record<LearnerSort, string> = {
  name: "learner.family_name || ' ' || learner.given_name COLLATE NOCASE",
  learner_id: 'learner.external_id',
  organisation: 'organisation.name COLLATE NOCASE',
  last_access: 'access.last_at',
  days_quiet: 'access.last_at',
  minutes_online: 'ifnull(access.ms, 0)',
  drift: 'drift.score',
};

function listQuery(db: Db, view: View, filter: LearnerFilter): Knex.QueryBuilder {
  const drift = seenEnrolments(db, view, filter.status)
    .leftJoin('drift_reading as r', (on) => on.on('r.enrolment_id', 'enrolment.id').andOnVal('r.day', view.readingDay))
    .leftJoin('course', 'course.id', 'enrolment.course_id')
    .groupBy('enrolment.learner_id')
    .select(
      'enrolment.learner_id',
      db.raw('json_group_array(course.code ORDER BY course.code) AS courses'),
      db.raw('min(enrolment.enrolled_day) AS enrolled_day'),
      db.raw(`${combinedScore('r')} AS score`),
      db.raw(`${combinedBand(DEFAULT_EDGES, LEAVE_MARGIN, 'r')} AS band`),
    );
  const query = db
    .from(drift.as('drift'))
    .join('learner', 'learner.id', 'drift.learner_id')
    .leftJoin('organisation', 'organisation.id', 'learner.organisation_id')
    .leftJoin(accessTotals(db, view).as('access'), 'access.learner_id', 'learner.id');
  if (filter.q) {
    for (const word of filter.q.split(/\s+/).filter(Boolean)) {
      query.whereRaw(
        `(learner.given_name || ' ' || learner.family_name || ' ' || learner.external_id || ' ' ||
          ifnull(learner.email, '') || ' ' || ifnull(learner.phone, '')) LIKE ? ESCAPE '\\'`,
        [like(word)],
      );
    }
  }
  if (filter.lastBefore !== undefined) {
    const before = filter.lastBefore;
    query.where((either) => either.whereNull('access.last_at').orWhere('access.last_at', '<', before));
  }
  if (filter.never) query.whereNull('access.last_at');
  if (filter.enrolledBefore !== undefined) query.where('drift.enrolled_day', '<', filter.enrolledBefore);
  if (filter.notContactedSince !== undefined) {
    query.whereNotExists(
      db('message')
        .whereRaw('message.learner_id = learner.id')
        .where('message.created_at', '>=', filter.notContactedSince)
        .whereNot('message.state', 'failed'),
    );
  }
  if (filter.band === 'none') query.whereNull('drift.band');
  else if (filter.band !== undefined) query.where('drift.band', filter.band);
  return query;
}

export interface ListPage {
  sort: LearnerSort;
  descending: boolean;
  limit: number;
  offset: number;
}

/** One page of the learners in view, and how many there are in all. */
export async function listLearners(
  db: Db,
  view: View,
  filter: LearnerFilter,
  page: ListPage,
): Promise<{ rows: LearnerRow[]; total: number }> {
  const [{ total }] = await listQuery(db, view, filter).count('* as total');
  // Days quiet run against last access: more days is an earlier instant.
  const descending = page.sort === 'days_quiet' ? !page.descending : page.descending;
  // Never accessed is the quietest there is, and has no last access.
  const nullsFirst = page.sort === 'days_quiet' ? !descending : false;
  const rows = await listQuery(db, view, filter)
    .orderByRaw(
      `${SORT_COLUMNS[page.sort]} ${descending ? 'DESC' : 'ASC'} NULLS ${nullsFirst ? 'FIRST' : 'LAST'}, learner.id`,
    )
    .limit(page.limit)
    .offset(page.offset)
    .select(LEARNER_COLUMNS(db));
  return { rows: rows.map(withCourses), total: Number(total) };
}

const LEARNER_COLUMNS = (db: Db) => [
  'learner.id',
  'learner.external_id as learner_id',
  'learner.given_name',
  'learner.family_name',
  'learner.email',
  'learner.phone',
  'organisation.name as organisation',
  'drift.courses',
  'access.last_at',
  db.raw('ifnull(access.ms, 0) AS ms'),
  'drift.score',
  'drift.band',
];

function withCourses(row: Omit<LearnerRow, 'courses'> & { courses: string }): LearnerRow {
  return { ...row, courses: JSON.parse(row.courses) };
}

/** The learners with these ids, of those in view; in no particular order. */
export async function learnersById(db: Db, view: View, ids: readonly number[]): Promise<LearnerRow[]> {
  const rows = await listQuery(db, view, { status: 'all' })
    .whereIn('learner.id', ids as number[])
    .select(LEARNER_COLUMNS(db));
  return rows.map(withCourses);
}

/** The database's id of a learner in scope, by the source's id; null for anybody else's. */
export async function findLearner(db: Db, viewer: Viewer, externalId: string): Promise<number | null> {
  const row = await db('learner').where('external_id', externalId).where(learnerInScope(db, viewer)).first('id');
  return row?.id ?? null;
}

/** Names of those of the ids given that the viewer may see. */
export async function namesOf(db: Db, viewer: Viewer, ids: readonly number[]) {
  // As one value: a list of thousands would be more variables than a statement may have.
  return (await db('learner')
    .whereRaw('learner.id IN (SELECT value FROM json_each(?))', [JSON.stringify(ids)])
    .where(learnerInScope(db, viewer))
    .select('id', 'external_id as learner_id', 'given_name', 'family_name')) as {
    id: number;
    learner_id: string;
    given_name: string;
    family_name: string;
  }[];
}

/** Those of the ids given that the viewer may see. */
export async function keepInScope(db: Db, viewer: Viewer, ids: readonly number[]): Promise<number[]> {
  return db('learner')
    .whereIn('id', ids as number[])
    .where(learnerInScope(db, viewer))
    .pluck('id');
}

export interface EnrolmentRow {
  id: number;
  learner_id: number;
  course: string;
  course_id: number;
  course_title: string;
  group: string | null;
  enrolled_day: number;
  ended_day: number | null;
  status: string;
  last_at: number | null;
  ms: number;
  score: number | null;
  band: Band | null;
  week_ago: number | null;
  explanation: Explanation;
}

/** Every enrolment in view of these learners, with its own figures and reasons. */
export async function enrolmentsOf(
  db: Db,
  view: View,
  learnerIds: readonly number[],
  status: 'active' | 'all' = 'all',
): Promise<EnrolmentRow[]> {
  const rows = await seenEnrolments(db, view, status)
    .whereIn('enrolment.learner_id', learnerIds as number[])
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('course_group', 'course_group.id', 'enrolment.group_id')
    .leftJoin('learner_course as lc', (on) =>
      on.on('lc.learner_id', 'enrolment.learner_id').andOn('lc.course_id', 'enrolment.course_id'),
    )
    .leftJoin('drift_reading as r', (on) => on.on('r.enrolment_id', 'enrolment.id').andOnVal('r.day', view.readingDay))
    .leftJoin('drift_reading as w', (on) =>
      on.on('w.enrolment_id', 'enrolment.id').andOnVal('w.day', view.readingDay - 7),
    )
    .orderByRaw("enrolment.learner_id, enrolment.status <> 'active', r.score DESC, course.code")
    .select(
      'enrolment.id',
      'enrolment.learner_id',
      'enrolment.course_id',
      'course.code as course',
      'course.title as course_title',
      'course_group.name as group',
      'enrolment.enrolled_day',
      'enrolment.ended_day',
      'enrolment.status',
      'lc.last_at',
      db.raw('ifnull(lc.ms, 0) AS ms'),
      'r.score',
      'r.band',
      'r.reasons',
      'w.score as week_ago',
    );
  return rows.map(({ reasons, ...row }: Omit<EnrolmentRow, 'explanation'> & { reasons: string | null }) => ({
    ...row,
    explanation: reasons ? JSON.parse(reasons) : { reasons: [], notCounted: [] },
  }));
}
