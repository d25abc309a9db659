/** Who may do what with a session. */
import { isStaffMember } from '@/core/staff/rights';
import type { Db } from '@/data/db';
import type { Viewer } from '@/data/scope';
import { findSession, type SessionRow } from '@/data/sessions/sessions';
import { groupsOfCourse } from '@/data/sessions/timetable';
import { NotFound } from '../request/input';
import type { Runtime } from '../runtime';

type Place = Pick<SessionRow, 'course_id' | 'group_id'>;

/** May they plan this course's (or this group's) sessions? Those whose own it is: a course's own are not one group's. */
export function mayPlan(viewer: Viewer, { course_id, group_id }: Place): boolean {
  if (!isStaffMember(viewer)) return false;
  return viewer.all || viewer.courses.includes(course_id) || (group_id !== null && viewer.groups.includes(group_id));
}

/** May they take its roll, of those that they see? Whoever may plan it, and whoever has a group that is in it. */
export async function mayTakeRoll(db: Db, viewer: Viewer, place: Place): Promise<boolean> {
  if (mayPlan(viewer, place)) return true;
  if (!isStaffMember(viewer) || place.group_id !== null || viewer.groups.length === 0) return false;
  return (await groupsOfCourse(db, place.course_id)).some(({ id }) => viewer.groups.includes(id));
}

/** A session that the viewer sees. @throws NotFound */
export async function requireSession(
  { db }: Pick<Runtime, 'db'>,
  viewer: Viewer,
  sessionId: string,
): Promise<SessionRow> {
  const found = await findSession(db, { viewer, segment: {} }, sessionId);
  if (!found) throw new NotFound('No such session');
  return found;
}

/** A session whose roll the viewer may take. @throws NotFound */
export async function requireRoll({ db }: Pick<Runtime, 'db'>, viewer: Viewer, sessionId: string): Promise<SessionRow> {
  const found = await requireSession({ db }, viewer, sessionId);
  if (!(await mayTakeRoll(db, viewer, found))) throw new NotFound('No such session');
  return found;
}

/** May they plan any session at all? Then lists offer to. */
export function mayPlanAny(viewer: Viewer): boolean {
  return isStaffMember(viewer) && (viewer.all || viewer.courses.length > 0 || viewer.groups.length > 0);
}
