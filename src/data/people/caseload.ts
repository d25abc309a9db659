/** Everybody in view with their drift: what the Watch puts in order. */
import { LEAVE_MARGIN } from '@/core/drift/bands';
import { settingOn } from '@/core/drift/setting';
import type { Band } from '@/core/drift/bands';
import type { Db } from '../db';
import { combinedBand, combinedScore, readingsByDay } from '../drift/drift';
import { begunEnrolments, type DriftView } from '../view';

export interface CaseloadRow {
  learnerId: number;
  score: number | null;
  band: Band | null;
  /** Counted days without access, in the course they were in last; null of whoever never was there, or has finished. */
  daysAway: number | null;
  /** Counted days since they could have come, in a course where they never did. */
  never: number | null;
  weekAgo: number | null;
  weekAgoBand: Band | null;
  weekAgoDaysAway: number | null;
  weekAgoNever: number | null;
  /** Was there any reading a week ago, even one without a score? */
  weekAgoRead: number;
}

/** Everybody in view with an active enrolment that has begun: drift and how long they have been away, now and a week before. */
export async function caseload(db: Db, view: DriftView): Promise<CaseloadRow[]> {
  const edgesOn = (day: number) => settingOn(view.settings, day).edges;
  const daysAway = (alias: string) => `min(CASE WHEN ${alias}.has_come = 1 THEN ${alias}.days_away END)`;
  const never = (alias: string) => `max(CASE WHEN ${alias}.has_come = 0 THEN ${alias}.days_away END)`;
  return db
    .with('seen', begunEnrolments(db, view).select('enrolment.id', 'enrolment.learner_id'))
    .from('seen')
    .leftJoin(readingsByDay(db, 'r'), (on) => on.on('r.enrolment_id', 'seen.id').andOnVal('r.day', view.readingDay))
    .leftJoin(readingsByDay(db, 'w'), (on) => on.on('w.enrolment_id', 'seen.id').andOnVal('w.day', view.readingDay - 7))
    .groupBy('seen.learner_id')
    .orderBy('seen.learner_id')
    .select(
      'seen.learner_id as learnerId',
      db.raw(`${combinedScore('r')} AS score`),
      db.raw(`${combinedBand(edgesOn(view.readingDay), LEAVE_MARGIN, 'r')} AS band`),
      db.raw(`${daysAway('r')} AS daysAway`),
      db.raw(`${never('r')} AS never`),
      db.raw(`${combinedScore('w')} AS weekAgo`),
      db.raw(`${combinedBand(edgesOn(view.readingDay - 7), LEAVE_MARGIN, 'w')} AS weekAgoBand`),
      db.raw(`${daysAway('w')} AS weekAgoDaysAway`),
      db.raw(`${never('w')} AS weekAgoNever`),
      db.raw('count(w.day) AS weekAgoRead'),
    );
}
