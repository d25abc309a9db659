/** Enrolments with their own figures and reasons. */
import type { PlatformSays } from '@/core/completion/platform-says';
import type { Band } from '@/core/drift/bands';
import { countOf, type Db } from '../db';
import { readExplanation, type Explanation } from '../drift/drift';
import { personColumns, staffColumn, staffName } from '../person';
import { enrolmentInSegment, enrolmentInScope, type ViewScope, type Viewer } from '../scope';
import { endedThen, idList, seenEnrolments, statusThen, type DriftView } from '../view';

export interface EnrolmentRow {
  id: number;
  learner_id: number;
  course: string;
  course_id: number;
  course_title: string;
  group_id: number | null;
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
  /** What the platform said of them last; null for nothing. */
  platform: PlatformSays | null;
}

/** Every enrolment in view of these learners, with its own figures and reasons. */
export async function enrolmentsOf(
  db: Db,
  view: DriftView,
  learnerIds: readonly number[],
  status: 'active' | 'all' = 'all',
): Promise<EnrolmentRow[]> {
  const access = view.asOf === null ? 'learner_course' : 'learner_day';
  const column = (what: string) =>
    `(SELECT ${what} FROM ${access} lc WHERE lc.learner_id = enrolment.learner_id AND lc.course_id = enrolment.course_id${
      view.asOf === null ? '' : ` AND lc.day <= ${view.asOf}`
    })`;
  const rows = await seenEnrolments(db, view, status)
    .whereIn('enrolment.learner_id', idList(db, learnerIds))
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('course_group', 'course_group.id', 'enrolment.group_id')
    .leftJoin('drift_reading as r', (on) => on.on('r.enrolment_id', 'enrolment.id').andOnVal('r.day', view.readingDay))
    .leftJoin('drift_reading as w', (on) =>
      on.on('w.enrolment_id', 'enrolment.id').andOnVal('w.day', view.readingDay - 7),
    )
    .orderByRaw(`enrolment.learner_id, ${statusThen(view)} <> 'active', r.score DESC, course.code`)
    .select(
      'enrolment.id',
      'enrolment.learner_id',
      'enrolment.course_id',
      'course.code as course',
      'course.title as course_title',
      'enrolment.group_id',
      'course_group.name as group',
      'enrolment.enrolled_day',
      db.raw(`${endedThen(view)} AS ended_day`),
      db.raw(`${statusThen(view)} AS status`),
      db.raw(`${column(view.asOf === null ? 'max(lc.last_at)' : 'max(lc.last)')} AS last_at`),
      db.raw(`${column('ifnull(sum(lc.ms), 0)')} AS ms`),
      'r.score',
      'r.band',
      'r.reasons',
      'w.score as week_ago',
      platformSays(db, view),
    );
  type Row = Omit<EnrolmentRow, 'explanation' | 'platform'> & { reasons: string | null; platform: string | null };
  return rows.map(({ reasons, platform, ...row }: Row) => ({
    ...row,
    explanation: readExplanation(reasons),
    platform: platform === null ? null : (JSON.parse(platform) as PlatformSays),
  }));
}

/** What the platform said last of some enrolments by the view's instant, by the enrolment; one of which it said nothing is missing. */
export async function platformSaysOf(
  db: Db,
  view: Pick<DriftView, 'now'>,
  enrolmentIds: readonly number[],
): Promise<Map<number, PlatformSays>> {
  const rows: { id: number; platform: string | null }[] = await db('enrolment')
    .whereIn('enrolment.id', idList(db, enrolmentIds))
    .select('enrolment.id', platformSays(db, view));
  return new Map(rows.flatMap(({ id, platform }) => (platform === null ? [] : [[id, JSON.parse(platform)]])));
}

/** What a platform said last of an enrolment by the view's instant, as JSON: of the row of `enrolment` in the query. */
function platformSays(db: Db, { now }: Pick<DriftView, 'now'>) {
  return db.raw(
    `(SELECT json_object('progress', p.progress, 'minutes', p.minutes, 'at', p.made_at) FROM platform_snapshot p
      WHERE p.learner_id = enrolment.learner_id AND p.course_id = enrolment.course_id AND p.made_at <= ?
        AND (p.progress IS NOT NULL OR p.minutes IS NOT NULL) ORDER BY p.made_at DESC LIMIT 1) AS platform`,
    [now],
  );
}

export interface CrewRow {
  course_id: number;
  name: string;
  email: string;
  role: string;
}

/** The instructors and mentors of some courses and groups: those whose scope names them, nobody who sees everything. */
export async function crewOf(
  db: Db,
  viewer: Viewer,
  enrolments: readonly Pick<EnrolmentRow, 'course_id' | 'group_id'>[],
): Promise<CrewRow[]> {
  const courses = enrolments.map((enrolment) => enrolment.course_id);
  const groups = enrolments.map((enrolment) => enrolment.group_id).filter((id): id is number => id !== null);
  return db('staff_scope as s')
    .join('staff', 'staff.id', 's.staff_id')
    .leftJoin('course_group as g', 'g.id', 's.group_id')
    .whereNull('staff.ended_at')
    .whereIn('staff.role', ['instructor', 'mentor'])
    .where((any) => any.whereIn('s.course_id', courses).orWhereIn('s.group_id', groups))
    .orderByRaw("staff.role <> 'instructor', staff.family_name, staff.id")
    .groupByRaw('ifnull(s.course_id, g.course_id), staff.id')
    .select(
      db.raw('ifnull(s.course_id, g.course_id) AS course_id'),
      db.raw(`${staffName(viewer)} AS name`),
      db.raw(`${staffColumn(viewer, 'email')} AS email`),
      'staff.role',
    );
}

export interface ClassMember {
  learner_id: string;
  name: string;
  group: string | null;
  /** Their first event in the course since an instant; null for nobody seen. */
  first_in: number | null;
}

/** A class list of more than these is no class: then it is only counted. */
const MOST_MEMBERS = 300;

export interface Class {
  /** By name; null for more than a class. */
  members: ClassMember[] | null;
  size: number;
}

/**
 * Everybody enrolled now in the course or group looked at, with when they came since an instant.
 * @param sessionId of a session that is on: then whoever has come to it has come
 */
export async function classList(
  db: Db,
  { viewer, segment }: ViewScope,
  since: number,
  sessionId: number | null = null,
): Promise<Class> {
  const { id, name, sort } = personColumns(viewer);
  const enrolled = () =>
    db('enrolment')
      .where('enrolment.status', 'active')
      .where(enrolmentInScope(viewer))
      .where(enrolmentInSegment(segment));
  const size = await countOf(enrolled());
  if (size > MOST_MEMBERS) return { members: null, size };
  const members = await enrolled()
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .leftJoin('course_group', 'course_group.id', 'enrolment.group_id')
    .orderByRaw(`${sort}, learner.id`)
    .select(
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'course_group.name as group',
      db('event')
        .min('at')
        .whereRaw('event.learner_id = enrolment.learner_id AND event.course_id = enrolment.course_id')
        .where('at', '>=', since)
        .as('first_event'),
      db('presence')
        .select('first_in')
        .whereRaw('presence.learner_id = enrolment.learner_id')
        .where('session_id', sessionId)
        .as('joined_at'),
      db('check_in')
        .select('at')
        .whereRaw("check_in.learner_id = enrolment.learner_id AND check_in.state <> 'refused'")
        .where('session_id', sessionId)
        .as('checked_in_at'),
    );
  const first = (...times: (number | null)[]) => {
    const known = times.filter((at) => at !== null);
    return known.length === 0 ? null : Math.min(...known);
  };
  return {
    // Of a session that is on, being there is what counts; without one it is the log.
    members: members.map(({ first_event, joined_at, checked_in_at, ...member }) => ({
      ...member,
      first_in: sessionId === null ? first_event : first(joined_at, checked_in_at),
    })),
    size: members.length,
  };
}

/** Who is in a group of a course now, by number. */
export async function learnersInGroup(db: Db, courseId: number, groupId: number | null): Promise<number[]> {
  return db('enrolment')
    .where({ course_id: courseId, group_id: groupId })
    .where('status', 'active')
    .pluck('learner_id');
}
