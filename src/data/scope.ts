/**
 * The one place that turns a viewer into what they may see.
 *
 * Every read of personal data composes one of these conditions. Asking for something
 * outside one's scope therefore finds nothing, exactly as for something that does not exist.
 */
import { isStaffMember } from '@/core/staff/rights';
import type { Knex } from 'knex';
import type { StaffRole } from '@/core/staff/roles';
import type { Db } from './db';

/** Who is asking. */
export interface Viewer {
  staffId: number;
  role: StaffRole;
  name: string;
  /** True for somebody who sees everyone. */
  all: boolean;
  organisations: readonly number[];
  courses: readonly number[];
  groups: readonly number[];
  learners: readonly number[];
  /** The key of the stand-ins that this viewer gets instead of names; null for names as they are. */
  standInKey: string | null;
}

/** A part of what a viewer sees: one course, group or organisation. */
export interface Segment {
  courseId?: number;
  groupId?: number;
  organisationId?: number;
  caseload?: Caseload;
}

/** A caseload as somebody sees it: over all courses, as far as its learners are in their scope. */
export interface Caseload {
  id: number;
  name: string;
  learners: ReadonlySet<number>;
}

/** The part of a segment that is of people, whichever course they are in. */
function peopleOf({ organisationId, caseload }: Segment): Segment {
  return { ...(organisationId !== undefined && { organisationId }), ...(caseload && { caseload }) };
}

/** Are only some of a course's people looked at? */
export function isOfSome({ groupId, organisationId, caseload }: Segment): boolean {
  return groupId !== undefined || organisationId !== undefined || caseload !== undefined;
}

/** Condition: a learner is of the part looked at, as far as that is of people. `column` holds the learner's number. */
export function learnerOf({ organisationId, caseload }: Segment, column: string): Where {
  return (builder) => {
    if (organisationId !== undefined)
      builder.whereIn(column, (sub) => sub.select('id').from('learner').where('organisation_id', organisationId));
    if (caseload)
      builder.whereRaw(`${column} IN (SELECT value FROM json_each(?))`, [JSON.stringify([...caseload.learners])]);
  };
}

/** Who looks, and at which part. */
export interface ViewScope {
  viewer: Viewer;
  segment: Segment;
}

type Where = (builder: Knex.QueryBuilder) => void;

/**
 * A condition as text with its values, for a statement that is written by hand.
 *
 * @example conditionOf(db, enrolmentInScope(viewer)) // { sql: "EXISTS (select 1 where …)", bindings: [3] }
 */
export function conditionOf(db: Db, where: Where): { sql: string; bindings: readonly unknown[] } {
  const { sql, bindings } = db.select(db.raw('1')).where(where).toSQL().toNative();
  return { sql: `EXISTS (${sql})`, bindings };
}

/**
 * Condition that nothing meets, where every one of these scopes is empty: alternatives of which there is none are true of
 * everything. Only then, since no index serves alternatives of which one is a constant.
 */
function nothingUnless(builder: Knex.QueryBuilder, ...scopes: readonly (readonly number[])[]) {
  if (scopes.every(({ length }) => length === 0)) builder.whereRaw('0');
}

/** Learners of whom the viewer sees everything, in every course. */
function wholeLearners(builder: Knex.QueryBuilder, viewer: Viewer, column: string) {
  if (viewer.learners.length > 0) builder.orWhereIn(column, viewer.learners);
  if (viewer.organisations.length > 0) {
    builder.orWhereIn(column, (sub) =>
      sub.select('id').from('learner').whereIn('organisation_id', viewer.organisations),
    );
  }
}

/**
 * Condition: this enrolment is one the viewer may see. `alias` is the enrolment table's. One that a merge left behind is
 * nobody's: whoever asks through the scope cannot forget it.
 */
export function enrolmentInScope(viewer: Viewer, alias = 'enrolment'): Where {
  return (builder) => {
    builder.whereRaw(`${alias}.status <> 'merged'`);
    if (viewer.all) return;
    builder.where((any) => {
      nothingUnless(any, viewer.courses, viewer.groups, viewer.learners, viewer.organisations);
      if (viewer.courses.length > 0) any.orWhereIn(`${alias}.course_id`, viewer.courses);
      if (viewer.groups.length > 0) any.orWhereIn(`${alias}.group_id`, viewer.groups);
      wholeLearners(any, viewer, `${alias}.learner_id`);
    });
  };
}

/** Condition: this learner has an enrolment the viewer may see; a record that was merged into another is nobody's. */
export function learnerInScope(db: Db, viewer: Viewer, alias = 'learner'): Where {
  return (builder) => {
    builder.whereRaw(`${alias}.merged_into IS NULL`);
    if (viewer.all) return;
    builder.whereExists(
      db('enrolment as seen')
        .whereRaw('seen.learner_id = ??', [`${alias}.id`])
        .where(enrolmentInScope(viewer, 'seen')),
    );
  };
}

/**
 * Condition: this row of a learner in a course (visits, days, events) is one the viewer may
 * see. Somebody limited to a course sees what the learner did in that course and nothing else.
 */
export function courseRowInScope(db: Db, viewer: Viewer, alias: string): Where {
  return (builder) => {
    if (viewer.all) return;
    builder.where((any) => {
      nothingUnless(any, viewer.courses, viewer.groups, viewer.learners, viewer.organisations);
      wholeLearners(any, viewer, `${alias}.learner_id`);
      const enrolled = () =>
        db('enrolment as seen').whereRaw('seen.learner_id = ?? AND seen.course_id = ??', [
          `${alias}.learner_id`,
          `${alias}.course_id`,
        ]);
      // The row's own course is asked first: a look for the enrolment is spared for all the others.
      if (viewer.courses.length > 0)
        any.orWhere((own) => void own.whereIn(`${alias}.course_id`, viewer.courses).whereExists(enrolled()));
      // The plus keeps to the one enrolment: by its index, the whole group would be gone through for each row.
      if (viewer.groups.length > 0)
        any.orWhereExists(
          enrolled().whereRaw(`+seen.group_id IN (${viewer.groups.map(() => '?').join(', ')})`, [...viewer.groups]),
        );
    });
  };
}

/** What the scope of one event is told by. */
export interface EventScope {
  learner_id: number;
  course_id: number;
  /** Of the learner's enrolment in that course. */
  group_id: number | null;
  organisation_id: number | null;
  /** Is the learner enrolled in that course, now or once? */
  is_enrolled: number;
}

/** `courseRowInScope`, and the part looked at, for an event at hand: for streams, which have no query to put it in. */
export function eventInView({ viewer, segment }: ViewScope, event: EventScope): boolean {
  const { learner_id, course_id, group_id, organisation_id, is_enrolled } = event;
  const seen =
    viewer.all ||
    viewer.learners.includes(learner_id) ||
    (organisation_id !== null && viewer.organisations.includes(organisation_id)) ||
    (is_enrolled === 1 && viewer.courses.includes(course_id)) ||
    (group_id !== null && viewer.groups.includes(group_id));
  return (
    seen &&
    (segment.courseId === undefined || segment.courseId === course_id) &&
    (segment.groupId === undefined || segment.groupId === group_id) &&
    (segment.organisationId === undefined || segment.organisationId === organisation_id) &&
    (segment.caseload === undefined || segment.caseload.learners.has(learner_id))
  );
}

/**
 * Condition: this course, group or organisation is one in which the viewer sees somebody, or is theirs by
 * scope. Anything else answers as what does not exist. `column` is the name's id.
 */
export function segmentInScope(
  db: Db,
  viewer: Viewer,
  part: 'course' | 'group' | 'organisation',
  column: string,
): Where {
  const theirIds = { course: viewer.courses, group: viewer.groups, organisation: viewer.organisations }[part];
  return (builder) => {
    if (viewer.all) return;
    builder.where((any) => {
      any.whereIn(column, theirIds);
      any.orWhereExists(
        db('enrolment as part')
          .modify((query) => {
            if (part === 'organisation') {
              query.whereIn(
                'part.learner_id',
                db('learner as of').whereRaw('of.organisation_id = ??', [column]).select('of.id'),
              );
            } else query.whereRaw('?? = ??', [`part.${part}_id`, column]);
          })
          .where(enrolmentInScope(viewer, 'part')),
      );
    });
  };
}

/** Condition: the enrolment is in the part looked at. */
export function enrolmentInSegment(segment: Segment, alias = 'enrolment'): Where {
  return (builder) => {
    if (segment.courseId !== undefined) builder.where(`${alias}.course_id`, segment.courseId);
    if (segment.groupId !== undefined) builder.where(`${alias}.group_id`, segment.groupId);
    builder.where(learnerOf(segment, `${alias}.learner_id`));
  };
}

/**
 * Condition: this session is one of the viewer's: of a course or group that is theirs, or that somebody is in whom
 * they see. When a course meets is no secret of anybody's; who was there is, and goes through the enrolments.
 */
export function sessionInScope(db: Db, viewer: Viewer, alias = 'session'): Where {
  return (builder) => {
    if (viewer.all) return;
    builder.where((any) => {
      any.whereIn(`${alias}.course_id`, viewer.courses);
      any.orWhereIn(`${alias}.group_id`, viewer.groups);
      any.orWhereExists(
        db('enrolment as meets')
          .whereRaw(
            `meets.course_id = ${alias}.course_id AND ifnull(${alias}.group_id, meets.group_id) IS meets.group_id`,
          )
          .where(enrolmentInScope(viewer, 'meets')),
      );
    });
  };
}

/** Condition: the session is in the part looked at; a course's own sessions are those of each of its groups. */
export function sessionInSegment(db: Db, segment: Segment, alias = 'session'): Where {
  const { courseId, groupId } = segment;
  const people = peopleOf(segment);
  return (builder) => {
    if (courseId !== undefined) builder.where(`${alias}.course_id`, courseId);
    if (groupId !== undefined) {
      builder
        .where(`${alias}.course_id`, db('course_group').where('id', groupId).select('course_id'))
        .where((any) => any.whereNull(`${alias}.group_id`).orWhere(`${alias}.group_id`, groupId));
    }
    if (isOfSome(people)) {
      builder.whereExists(
        db('enrolment as meets')
          .whereRaw(
            `meets.course_id = ${alias}.course_id AND ifnull(${alias}.group_id, meets.group_id) IS meets.group_id`,
          )
          .where(enrolmentInSegment(people, 'meets')),
      );
    }
  };
}

/** Condition: the learner has an enrolment in the part looked at. */
export function learnerInSegment(db: Db, segment: Segment, alias = 'learner'): Where {
  return (builder) => {
    if (Object.keys(segment).length === 0) return;
    builder.whereExists(
      db('enrolment as looked')
        .whereRaw('looked.learner_id = ??', [`${alias}.id`])
        .where(enrolmentInSegment(segment, 'looked')),
    );
  };
}

/** Does the viewer see everything of this learner, in every course? `alias` is the learner table's. */
export function wholeLearnerInScope(viewer: Viewer, alias = 'learner'): Where {
  return (builder) => {
    if (viewer.all) return;
    builder.where((any) => {
      any.whereRaw('0');
      wholeLearners(any, viewer, `${alias}.id`);
    });
  };
}

/**
 * Condition: what this member of staff wrote, said, promised or was answered is the viewer's to read.
 * Staff read one another's; a partner's contact reads their own alone: they are outside the trust, and a learner
 * who tells a mentor something has not told their employer.
 * @param columns of the ids of staff whose it is
 */
export function wordsInScope(viewer: Viewer, ...columns: string[]): Where {
  return (builder) => {
    if (isStaffMember(viewer)) return;
    builder.where((any) => columns.forEach((column) => any.orWhere(column, viewer.staffId)));
  };
}

/** SQL for a value that only they may read who may read what a member of staff said; NULL for anybody else. */
export function wordsOnly(viewer: Viewer, staffColumn: string, sql: string, otherwise = 'NULL'): string {
  if (isStaffMember(viewer)) return sql;
  return `CASE WHEN ${staffColumn} = ${Number(viewer.staffId)} THEN ${sql} ELSE ${otherwise} END`;
}
