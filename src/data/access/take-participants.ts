/**
 * Taking what a platform says of its participants: how far and how long it says they were there is kept as its own, and when
 * they were last there counts as an access of kind *other*, unless something has told of it already.
 */
import { closedLogs } from '@/data/privacy/retention';
import { parseInstant } from '@/core/time/instant';
import { dayFromDate, dayOf } from '@/core/time/zone';
import { prepared } from '../db';
import { fault, checked, upsert } from '../imports/rows';
import { idFinder, type OpenImporter } from '../imports/importer';
import { noteStale, staleCourses } from '../drift/stale';
import { EventWriter } from './event-writer';
import { windowOf } from './snapshot-accesses';
import { CLOCK_TOLERANCE } from './take-access-log';

/** The word of such an access. */
const ACTION = 'last_access';

export const openParticipantsImporter: OpenImporter = (raw, context) => {
  const writer = new EventWriter(raw, context.sourceId, context.zone);
  const actionId = writer.actionId(ACTION);
  const learners = prepared(raw, 'SELECT ifnull(merged_into, id) FROM learner WHERE external_id = ?').pluck();
  const courses = prepared(raw, 'SELECT id FROM course WHERE code = ?').pluck();
  const enrolments = prepared(
    raw,
    'SELECT id, group_id, status, provisional FROM enrolment WHERE learner_id = ? AND course_id = ?',
  );
  const told = prepared(
    raw,
    'SELECT 1 FROM event WHERE learner_id = ? AND course_id = ? AND at >= ? AND at < ? LIMIT 1',
  ).pluck();
  const groupId = idFinder(
    raw,
    'SELECT id FROM course_group WHERE course_id = ?1 AND name = ?2',
    'INSERT INTO course_group (course_id, name) VALUES (?1, ?2)',
  );
  const changedCourses = new Set<number>();
  const closed = closedLogs(raw);
  const madeAt = context.madeAt ?? context.now;
  const madeDay = dayOf(madeAt, context.zone);
  const numeral = (value: string | undefined) => (value ? Number(value) : null);
  return checked(
    context,
    (row) => {
      const learnerId = learners.get(row.learner_id) as number | undefined;
      if (learnerId === undefined)
        return fault('learner_id', `there is no learner ${row.learner_id}: bring in the roster first`);
      const courseId = courses.get(row.course) as number | undefined;
      if (courseId === undefined)
        return fault('course', `there is no course ${row.course}: bring in the outline first`);
      const enrolment = enrolments.get(learnerId, courseId) as
        { id: number; group_id: number | null; status: string; provisional: number | null } | undefined;
      if (enrolment === undefined) return fault('learner_id', `is not enrolled in ${row.course}`);
      const at =
        row.last_access && row.last_access !== 'never' ? parseInstant(row.last_access, context.timezone)! : null;
      if (at !== null && at > context.now + CLOCK_TOLERANCE) return fault('last_access', 'lies in the future');
      const exactTo = 1000 * Number(row.exact_to || 0);
      let isNew = false;
      // A group that somebody is in already is the roster's, or was chosen here.
      if (row.group && enrolment.group_id === null) {
        prepared(raw, 'UPDATE enrolment SET group_id = ? WHERE id = ?').run(groupId(courseId, row.group), enrolment.id);
        changedCourses.add(courseId);
        isNew = true;
      }
      // What a roster says of an enrolment holds.
      if (row.status && enrolment.provisional !== null && row.status !== enrolment.status) {
        const ended = row.status === 'active' ? null : dayOf(madeAt, context.zone);
        prepared(raw, 'UPDATE enrolment SET status = ?, ended_day = ? WHERE id = ?').run(
          row.status,
          ended,
          enrolment.id,
        );
        changedCourses.add(courseId);
        isNew = true;
      }
      // So it does of the first day.
      const enrolled = row.enrolled_on ? dayFromDate(row.enrolled_on) : null;
      if (enrolled !== null && enrolment.provisional !== null && enrolled <= madeDay) {
        const moved = prepared(
          raw,
          'UPDATE enrolment SET enrolled_day = @enrolled WHERE id = @id AND enrolled_day <> @enrolled',
        );
        if (moved.run({ enrolled, id: enrolment.id }).changes > 0) {
          changedCourses.add(courseId);
          isNew = true;
        }
      }
      let eventId: number | null = null;
      // Nothing is added to days of a log that are closed.
      if (
        at !== null &&
        at >= (closed.get(courseId) ?? -Infinity) &&
        told.get(learnerId, courseId, ...windowOf(at, exactTo)) === undefined
      ) {
        const event = {
          at,
          learnerId,
          staffId: null,
          courseId,
          itemId: null,
          actionId,
          address: null,
          externalId: null,
        };
        eventId = writer.addSnapshot(event);
        isNew = true;
      }
      const where = { learner_id: learnerId, course_id: courseId, made_at: madeAt };
      const progress = numeral(row.progress);
      const { changed } = upsert(raw, 'platform_snapshot', where, {
        last_access: at,
        exact_to: exactTo,
        progress,
        minutes: numeral(row.minutes),
        ...(eventId !== null && { event_id: eventId }),
      });
      // Drift may go by what the platform says.
      if (changed && progress !== null)
        noteStale(raw, 'SELECT @enrolmentId, @fromDay', { enrolmentId: enrolment.id, fromDay: madeDay });
      return changed || isNew ? 'accepted' : 'duplicate';
    },
    () => {
      writer.flush();
      staleCourses(raw, changedCourses);
      changedCourses.clear();
    },
  );
};
