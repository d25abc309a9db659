/** Sessions in the records of learners, with how each went. */
import { attendanceOf, type Attendance, type Mark } from '@/core/sessions/attendance';
import { groupBy } from '@/core/group-by';
import { saySession, wordOfOutcome, type SessionOutcome } from '@/core/sessions/record';
import { marksInTime, sessionsOfLearners, type OwnSession } from '@/data/sessions/attendance';
import { asMark, listMarks } from '@/data/sessions/marks';
import type { Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import type { View } from '@/data/view';
import type { Runtime } from '../runtime';

export interface RecordedSession extends OwnSession {
  outcome: SessionOutcome;
  /** The mark in words; null for none. */
  label: string | null;
  /** What there is of it, as evidence. */
  says: string;
}

async function marksByCode(db: Db): Promise<Map<string, Mark>> {
  return new Map((await listMarks(db, true)).map((row) => [row.code, asMark(row)]));
}

/** The sessions of some learners that begin in a period, by the learner's number, in time order. */
export async function recordedSessions(
  { db, zone }: Pick<Runtime, 'db' | 'zone'>,
  viewer: Viewer,
  learnerIds: readonly number[],
  span: { from: number; to: number; now: number; courseId?: number },
): Promise<Map<number, RecordedSession[]>> {
  const [rows, marks] = await Promise.all([sessionsOfLearners(db, viewer, learnerIds, span), marksByCode(db)]);
  const recorded = rows.map((row) => ({
    ...row,
    outcome: wordOfOutcome(row, span.now),
    label: row.mark === null ? null : (marks.get(row.mark)?.label ?? row.mark),
    says: saySession(row, marks, zone, span.now),
  }));
  return groupBy(recorded, (row) => row.learner);
}

/** What one learner's marks come to in each course that the viewer sees them in, by the course's number. */
export async function attendanceByCourse(
  { db }: Pick<Runtime, 'db'>,
  view: View,
  learnerId: number,
): Promise<Map<number, Attendance>> {
  const marks = [...(await marksByCode(db)).values()];
  const byCourse = new Map<number, Attendance>();
  for await (const { marks: own } of marksInTime(db, view, { now: view.now, learnerIds: [learnerId] })) {
    for (const [courseId, list] of groupBy(own, (row) => row.course_id)) {
      byCourse.set(
        courseId,
        attendanceOf(
          list.map(({ mark }) => mark),
          marks,
        ),
      );
    }
  }
  return byCourse;
}

/** A learner's own record, as of the view's now: their sessions, newest first, and what the marks come to by course. */
export async function learnerSessions(runtime: Pick<Runtime, 'db' | 'zone'>, view: View, learnerId: number) {
  const span = { from: 0, to: view.now + 1, now: view.now, courseId: view.segment.courseId };
  const [recorded, byCourse] = await Promise.all([
    recordedSessions(runtime, view.viewer, [learnerId], span),
    attendanceByCourse(runtime, view, learnerId),
  ]);
  return { sessions: (recorded.get(learnerId) ?? []).reverse(), byCourse };
}
