/** Finding the people and items that statements are about. */
import { createHash } from 'node:crypto';
import { lastPart, type ActorId, type SaidStatement } from '@/core/feed/xapi/read';
import type { RawConnection } from '@/data/db';
import { LEARNER_STAFF, STAFF_COURSES } from '@/data/access/actors';

export interface Who {
  learnerId: number | null;
  staffId: number | null;
}

export interface What {
  courseId: number;
  itemId: number | null;
  /** Of an activity inside of the item, such as a question: the end of its IRI. */
  part?: string;
}

/**
 * Looks people up by address, account or sum of the address, and items by the end of their
 * activity's IRI: `…/COURSE/ITEM`, an item of the course named around it, or a course itself.
 * What is not found, or found twice, is null: then the statement waits.
 */
export function openDirectory(raw: RawConnection) {
  const learner = {
    mail: raw.prepare('SELECT DISTINCT ifnull(merged_into, id) FROM learner WHERE email = ? COLLATE NOCASE').pluck(),
    account: raw.prepare('SELECT ifnull(merged_into, id) FROM learner WHERE external_id = ?').pluck(),
  };
  const staff = {
    mail: raw.prepare('SELECT id FROM staff WHERE email = ? COLLATE NOCASE').pluck(),
    account: raw.prepare('SELECT id FROM staff WHERE external_id = ?').pluck(),
  };
  const staffOf = raw.prepare(`SELECT staff_id FROM (${LEARNER_STAFF}) WHERE learner_id = ?`).pluck();
  const teaches = raw.prepare(`SELECT 1 FROM (${STAFF_COURSES}) WHERE staff_id = ? AND course_id = ?`).pluck();
  const course = raw.prepare('SELECT id FROM course WHERE code = ?').pluck();
  const item = raw.prepare('SELECT id FROM item WHERE course_id = ? AND external_id = ?').pluck();
  const mails = raw.prepare('SELECT email FROM learner WHERE email IS NOT NULL UNION SELECT email FROM staff').pluck();
  let sums: Map<string, string> | null = null;

  const one = (found: unknown[]): number | null => (found.length === 1 ? (found[0] as number) : null);

  /** The address behind a sum, as the standard makes it: of the whole mailto IRI. */
  function mailOfSum(sum: string): string | null {
    sums ??= new Map(
      (mails.all() as string[]).map((mail) => [createHash('sha1').update(`mailto:${mail}`).digest('hex'), mail]),
    );
    return sums.get(sum) ?? null;
  }

  function who(id: ActorId, courseId: number): Who | null {
    if (id.by === 'nothing') return null;
    const by = id.by === 'account' ? 'account' : 'mail';
    const value = id.by === 'mail_sum' ? mailOfSum(id.value) : id.value;
    if (value === null) return null;
    const learnerId = one(learner[by].all(value));
    const staffId = one(staff[by].all(value)) ?? (learnerId === null ? null : one(staffOf.all(learnerId)));
    if (learnerId === null) return staffId === null ? null : { learnerId: null, staffId };
    // Staff of this course are staff here, learners elsewhere.
    if (staffId !== null && teaches.get(staffId, courseId) !== undefined) return { learnerId: null, staffId };
    return { learnerId, staffId: null };
  }

  function courseOf(iri: string): number | null {
    return (course.get(lastPart(iri)) as number | undefined) ?? null;
  }

  function what({ activity, around }: Pick<SaidStatement, 'activity' | 'around'>): What | null {
    if (activity === null) return null;
    const name = lastPart(activity);
    const above = activity
      .slice(0, Math.max(0, activity.lastIndexOf(name)))
      .split(/[/:]/)
      .filter(Boolean)
      .reverse();
    // The nearest part of the IRI, or activity around it, that is a course.
    for (const place of [...above.slice(0, 3), ...around]) {
      const courseId = courseOf(place);
      if (courseId === null) continue;
      const itemId = item.get(courseId, name) as number | undefined;
      if (itemId !== undefined) return { courseId, itemId };
    }
    // Something inside of an item, which its IRI or an activity around it names.
    for (const place of [activity.slice(0, activity.lastIndexOf(name)).replace(/[/:#?&=]+$/, ''), ...around]) {
      const inner = place === activity || !place ? null : what({ activity: place, around: [] });
      if (inner !== null && inner.itemId !== null) return { ...inner, part: name };
    }
    const courseId = courseOf(activity);
    return courseId === null ? null : { courseId, itemId: null };
  }

  return { who, what };
}

export type Directory = ReturnType<typeof openDirectory>;
