/** Taking roster rows: a row that is there again updates. */
import { dateOfDay, dayOf } from '@/core/time/zone';
import { reassignStaffEvents } from '../access/actors';
import { staleCourses } from '../drift/stale';
import { checked, day, fault, given, orNull, upsert } from '../imports/rows';
import { rematchCourse } from '../sessions/presence';
import { alikeFault, findOrAdd, idFinder, openAlike, type OpenImporter } from '../imports/importer';

interface StoredDays {
  enrolled_day: number;
  ended_day: number | null;
  status: string;
}

export const openRosterImporter: OpenImporter = (raw, context) => {
  const today = dayOf(context.now, context.zone);
  const courseId = idFinder(
    raw,
    'SELECT id FROM course WHERE code = ?1',
    'INSERT INTO course (code, title) VALUES (?1, ?1)',
  );
  const groupId = idFinder(
    raw,
    'SELECT id FROM course_group WHERE course_id = ?1 AND name = ?2',
    'INSERT INTO course_group (course_id, name) VALUES (?1, ?2)',
  );
  const changedCourses = new Set<number>();
  const keptRecord = raw.prepare('SELECT ifnull(merged_into, id) FROM learner WHERE id = ?').pluck();
  const seen = raw.prepare('UPDATE enrolment SET seen_run = ? WHERE id = ?');
  const alike = {
    learner: openAlike(raw, 'SELECT 0, external_id FROM learner'),
    course: openAlike(raw, 'SELECT 0, code FROM course'),
    group: openAlike(raw, 'SELECT course_id, name FROM course_group'),
    organisation: openAlike(raw, 'SELECT 0, name FROM organisation'),
  };
  const days = raw.prepare(
    `SELECT enrolled_day, ended_day, status FROM enrolment WHERE course_id = (SELECT id FROM course WHERE code = ?)
     AND learner_id = (SELECT ifnull(merged_into, id) FROM learner WHERE external_id = ?)`,
  );
  const nameCourse = raw.prepare(
    `UPDATE course SET title = CASE WHEN title = code THEN ifnull(nullif(@title, ''), title) ELSE title END,
       starts_day = ifnull(starts_day, @starts), ends_day = ifnull(ends_day, @ends)
     WHERE id = @id AND ifnull(ends_day, ifnull(@ends, 9e9)) >= ifnull(starts_day, ifnull(@starts, 0))
       AND ((title = code AND @title NOT IN ('', code)) OR (starts_day IS NULL AND @starts IS NOT NULL)
         OR (ends_day IS NULL AND @ends IS NOT NULL))`,
  );
  /** What a roster says of courses themselves holds where nothing else has said it. */
  const named = new Set<number>();
  const describe = (id: number, row: Partial<Record<string, string>>) => {
    if (named.has(id) || !(row.course_title || row.course_starts_on || row.course_ends_on)) return;
    named.add(id);
    const [starts, ends] = [day(row.course_starts_on) ?? null, day(row.course_ends_on) ?? null];
    if (nameCourse.run({ id, title: row.course_title ?? '', starts, ends }).changes > 0) changedCourses.add(id);
  };
  let people = false;
  return checked(
    context,
    (row) => {
      const enrolled = day(row.enrolled_on);
      const ended = day(row.ended_on);
      // What the file leaves out is as it was stored.
      const before = days.get(row.course, row.learner_id) as StoredDays | undefined;
      const begins = enrolled ?? before?.enrolled_day ?? (ended ? today : null);
      const isActive = (row.status || before?.status || 'active') === 'active';
      const ends = ended ?? (isActive ? null : (before?.ended_day ?? null));
      if (begins && ends && ends < begins) {
        return fault(
          ended ? 'ended_on' : 'enrolled_on',
          `the enrolment would end on ${dateOfDay(ends)}, before it begins on ${dateOfDay(begins)}`,
        );
      }
      if (ended && isActive) return fault('ended_on', 'is set although the status is active');
      const misspelt =
        alikeFault('learner_id', alike.learner(row.learner_id)) ??
        alikeFault('course', alike.course(row.course)) ??
        (row.organisation ? alikeFault('organisation', alike.organisation(row.organisation)) : null);
      if (misspelt) return misspelt;
      const course = courseId(row.course);
      describe(course, row);
      const misspeltGroup = row.group ? alikeFault('group', alike.group(row.group, course)) : null;
      if (misspeltGroup) return misspeltGroup;
      const learner = upsert(
        raw,
        'learner',
        { external_id: row.learner_id },
        given({
          given_name: row.given_name,
          family_name: row.family_name,
          provisional: null,
          email: orNull(row.email),
          phone: orNull(row.phone),
          organisation_id:
            row.organisation === undefined
              ? undefined
              : row.organisation === ''
                ? null
                : findOrAdd(raw, 'organisation', row.organisation),
        }),
      );
      const isOver = row.status === 'withdrawn' || row.status === 'completed';
      const enrolment = upsert(
        raw,
        'enrolment',
        // A record that was merged into another is enrolled as that one.
        { learner_id: keptRecord.get(learner.id) as number, course_id: course },
        given({
          group_id: row.group === undefined ? undefined : row.group === '' ? null : groupId(course, row.group),
          provisional: null,
          status: row.status || undefined,
          enrolled_day: enrolled ?? undefined,
          // An end that no file dates keeps the day it was first seen.
          ended_day: ended ?? (isOver ? undefined : row.status === 'active' ? null : undefined),
        }),
        { status: 'active', enrolled_day: today, ...(isOver ? { ended_day: today } : {}) },
      );
      seen.run(context.runId, enrolment.id);
      if (enrolment.changed) changedCourses.add(course);
      people ||= learner.changed;
      return learner.changed || enrolment.changed ? 'accepted' : 'duplicate';
    },
    () => {
      for (const course of changedCourses) rematchCourse(raw, course);
      staleCourses(raw, changedCourses);
      if (people) reassignStaffEvents(raw, context.zone);
      people = false;
    },
  );
};
