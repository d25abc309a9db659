/** Calendars that a calendar program subscribes to: a secret address, made and revoked, with its owner's own scope. */
import { randomBytes } from 'node:crypto';
import { writeCalendar } from '@/core/sessions/calendar-write';
import { DAY } from '@/core/time/zone';
import { findSegment, segmentLabel } from '@/data/courses/segments';
import { addFeed, endFeed, feedByToken, noteRead } from '@/data/sessions/feeds';
import { findSessions } from '@/data/sessions/sessions';
import type { Viewer } from '@/data/scope';
import { staffById, viewerOf } from '@/data/staff/staff';
import { NotFound } from '../request/input';
import { linkHash } from '../request/link-hash';
import type { Runtime } from '../runtime';

/** Makes an address, of all that one sees or of one course; it is shown once. @throws NotFound */
export async function makeFeed({ db, clock }: Runtime, viewer: Viewer, course: string | null): Promise<string> {
  const segment = course === null ? {} : await findSegment(db, viewer, { course });
  if (!segment || viewer.staffId === 0) throw new NotFound('No such course');
  const token = randomBytes(24).toString('base64url');
  await addFeed(db, {
    staff_id: viewer.staffId,
    course_id: segment.courseId ?? null,
    token_hash: linkHash(token),
    created_at: clock.now(),
  });
  return `/calendar/${token}.ics`;
}

/** Revokes an address of one's own: a calendar program gets nothing from it any more. @throws NotFound */
export async function removeFeed({ db, clock }: Runtime, viewer: Viewer, id: number): Promise<void> {
  if (!(await endFeed(db, viewer, id, clock.now()))) throw new NotFound('No such address');
}

/** How far a feed goes back and ahead. */
const BACK = 120 * DAY;
const AHEAD = 400 * DAY;
const MOST_SESSIONS = 5000;

/** The calendar behind an address, as its owner sees it now. @throws NotFound for one that is none, or whose owner has left */
export async function readFeed({ db, clock }: Runtime, token: string): Promise<string> {
  const feed = await feedByToken(db, linkHash(token));
  const staff = feed && (await staffById(db, feed.staff_id));
  if (!feed || !staff || staff.ended_at !== null) throw new NotFound('No such calendar');
  const viewer = await viewerOf(db, staff);
  const now = clock.now();
  const segment = feed.course_id === null ? {} : { courseId: feed.course_id };
  const { rows } = await findSessions(
    db,
    { viewer, segment },
    { from: now - BACK, to: now + AHEAD, limit: MOST_SESSIONS },
  );
  await noteRead(db, feed.id, now);
  const title = feed.course_id === null ? 'Sessions' : `Sessions: ${await segmentLabel(db, segment)}`;
  return writeCalendar(title, rows);
}
