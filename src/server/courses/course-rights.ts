/** Who may say how a course's items are done and graded. */
import { isStaffMember } from '@/core/staff/rights';
import { findSegment } from '@/data/courses/segments';
import type { Viewer } from '@/data/scope';
import { NotFound } from '../request/input';
import type { Runtime } from '../runtime';

/** May they say how a course's items are done and graded? */
export function mayRule(viewer: Viewer, courseId: number): boolean {
  return isStaffMember(viewer) && (viewer.all || viewer.courses.includes(courseId));
}

/** A course whose rules are the viewer's to change: theirs as a whole. @throws NotFound */
export async function requireCourse({ db }: Pick<Runtime, 'db'>, viewer: Viewer, code: string): Promise<number> {
  const segment = await findSegment(db, viewer, { course: code });
  if (segment?.courseId === undefined || !mayRule(viewer, segment.courseId)) throw new NotFound('No such course');
  return segment.courseId;
}
