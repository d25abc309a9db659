/** Everybody in view with their drift: what the Watch puts in order. */
import { DEFAULT_EDGES, LEAVE_MARGIN } from '@/core/drift/bands';
import type { Band } from '@/core/drift/types';
import type { Db } from '../db';
import { combinedBand, combinedScore, readingsByDay } from '../drift/drift';
import { seenEnrolments, type View } from '../view';

export interface CaseloadRow {
  learnerId: number;
  score: number | null;
  band: Band | null;
  weekAgo: number | null;
  weekAgoBand: Band | null;
  recentContacts: number;
}

/** Everybody in view with an active enrolment: drift now and a week before, and contact attempts since an instant. */
export async function caseload(db: Db, view: View, contactsSince: number): Promise<CaseloadRow[]> {
  return db
    .with('seen', seenEnrolments(db, view).select('enrolment.id', 'enrolment.learner_id'))
    .with(
      'tried',
      db('contact_attempt')
        .whereBetween('at', [contactsSince, view.now])
        .groupBy('learner_id')
        .select('learner_id', db.raw('count(*) AS attempts')),
    )
    .from('seen')
    .leftJoin(readingsByDay(db, 'r'), (on) => on.on('r.enrolment_id', 'seen.id').andOnVal('r.day', view.readingDay))
    .leftJoin(readingsByDay(db, 'w'), (on) => on.on('w.enrolment_id', 'seen.id').andOnVal('w.day', view.readingDay - 7))
    .leftJoin('tried', 'tried.learner_id', 'seen.learner_id')
    .groupBy('seen.learner_id')
    .orderBy('seen.learner_id')
    .select(
      'seen.learner_id as learnerId',
      db.raw(`${combinedScore('r')} AS score`),
      db.raw(`${combinedBand(DEFAULT_EDGES, LEAVE_MARGIN, 'r')} AS band`),
      db.raw(`${combinedScore('w')} AS weekAgo`),
      db.raw(`${combinedBand(DEFAULT_EDGES, LEAVE_MARGIN, 'w')} AS weekAgoBand`),
      db.raw('ifnull(max(tried.attempts), 0) AS recentContacts'),
    );
}
