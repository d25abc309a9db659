/** Secret addresses of calendars: each is one member of staff's, of all they see or of one course. */
import type { Db } from '../db';
import type { Viewer } from '../scope';
import type { RowOf } from '../tables';

export interface FeedRow extends Pick<RowOf<'calendar_feed'>, 'id' | 'created_at' | 'read_at'> {
  course: string | null;
  course_title: string | null;
}

/** One's own addresses that stand. */
export async function listFeeds(db: Db, viewer: Viewer): Promise<FeedRow[]> {
  return db('calendar_feed as f')
    .leftJoin('course', 'course.id', 'f.course_id')
    .where('f.staff_id', viewer.staffId)
    .whereNull('f.ended_at')
    .orderBy('f.id')
    .select('f.id', 'f.created_at', 'f.read_at', 'course.code as course', 'course.title as course_title');
}

export async function addFeed(
  db: Db,
  row: Pick<RowOf<'calendar_feed'>, 'staff_id' | 'course_id' | 'token_hash' | 'created_at'>,
): Promise<void> {
  await db('calendar_feed').insert(row);
}

/** Ends one of one's own. Returns whether there was one. */
export async function endFeed(db: Db, viewer: Viewer, id: number, at: number): Promise<boolean> {
  return (
    (await db('calendar_feed').where({ id, staff_id: viewer.staffId }).whereNull('ended_at').update({ ended_at: at })) >
    0
  );
}

/** The feed behind a token; null for one that was never made or has been ended. */
export async function feedByToken(db: Db, tokenHash: string): Promise<RowOf<'calendar_feed'> | null> {
  return (await db('calendar_feed').where('token_hash', tokenHash).whereNull('ended_at').first()) ?? null;
}

export async function noteRead(db: Db, id: number, at: number): Promise<void> {
  await db('calendar_feed').where({ id }).update({ read_at: at });
}
