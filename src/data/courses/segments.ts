/** The parts of a caseload: courses, groups and organisations with learners of the viewer's. */
import type { Db } from '../db';
import { enrolmentInScope, segmentInScope, type Segment, type Viewer } from '../scope';

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
export async function segmentLabel(
  db: Db,
  { courseId, groupId, organisationId, caseload }: Segment,
): Promise<string | null> {
  if (caseload) return caseload.name;
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
