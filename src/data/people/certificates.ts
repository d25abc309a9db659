/** Certificates of completion, as they were given. */
import type { Db } from '../db';
import { courseRowInScope, type Viewer } from '../scope';
import type { RowOf } from '../tables';

export type Certificate = RowOf<'certificate'>;

/** Certificates of a learner in a course that the viewer sees, the newest first. */
export async function certificatesOf(
  db: Db,
  viewer: Viewer,
  learnerId: number,
  courseId: number,
): Promise<Certificate[]> {
  return db('certificate as c')
    .where({ 'c.learner_id': learnerId, 'c.course_id': courseId })
    .where(courseRowInScope(db, viewer, 'c'))
    .orderBy('c.id', 'desc')
    .select('c.*');
}

/** A certificate by its number, of a learner whom the viewer sees in its course. */
export async function findCertificate(db: Db, viewer: Viewer, number: string): Promise<Certificate | null> {
  const row = await db('certificate as c')
    .where('c.number', number)
    .where(courseRowInScope(db, viewer, 'c'))
    .first('c.*');
  return row ?? null;
}

/** What anybody may know of a number that was given and holds: for which course, and when. Nothing of whom. */
export async function checkNumber(db: Db, number: string): Promise<{ course: string; givenAt: number } | null> {
  const row = await db('certificate').where({ number }).whereNull('revoked_at').first('course_title', 'given_at');
  return row ? { course: row.course_title, givenAt: row.given_at } : null;
}

export async function addCertificate(
  trx: Db,
  certificate: Omit<Certificate, 'id' | 'revoked_at' | 'revoked_by'>,
): Promise<void> {
  await trx('certificate').insert(certificate);
}

/** Takes a certificate back. Returns whether it held. */
export async function revokeCertificate(trx: Db, id: number, at: number, by: number | null): Promise<boolean> {
  const revoked = await trx('certificate')
    .where({ id })
    .whereNull('revoked_at')
    .update({ revoked_at: at, revoked_by: by });
  return revoked === 1;
}
