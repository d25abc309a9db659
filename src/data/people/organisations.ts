/** Partner organisations: how far their people's enrolments are, and how much they attend. */
import type { Db } from '../db';
import { personColumns } from '../person';
import { idList, seenEnrolments, type View } from '../view';

export interface OrganisationCounts {
  id: number;
  name: string;
  /** Each counted once, in however many courses. */
  people: number;
  courses: number;
  /** Of their enrolments, each in one: with no event ever; neither that nor one of the others; completed without and with the
   * pass mark reached; ended without completing. */
  not_started: number;
  under_way: number;
  completed: number;
  certified: number;
  ended: number;
}

// All that is required is done, or the roster says that they completed it.
const IS_COMPLETED = "(s.completed_at IS NOT NULL OR enrolment.status = 'completed')";
const IS_CERTIFIED = `(${IS_COMPLETED} AND course.pass_mark IS NOT NULL AND s.of_whole >= course.pass_mark)`;
const IS_ENDED = `(NOT ${IS_COMPLETED} AND enrolment.status = 'withdrawn')`;
const IS_NOT_STARTED = `(NOT ${IS_COMPLETED} AND enrolment.status = 'active' AND lc.learner_id IS NULL)`;

/** How far the enrolments in view are, ended ones included, by their learner's organisation. */
export async function organisationCounts(db: Db, view: View): Promise<OrganisationCounts[]> {
  const sum = (condition: string) => `total(ifnull(${condition}, 0))`;
  return seenEnrolments(db, view, 'all')
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('organisation', 'organisation.id', 'learner.organisation_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('enrolment_progress as s', 's.enrolment_id', 'enrolment.id')
    .leftJoin('learner_course as lc', (on) =>
      on.on('lc.learner_id', 'enrolment.learner_id').andOn('lc.course_id', 'enrolment.course_id'),
    )
    .groupBy('organisation.id')
    .orderByRaw('organisation.name COLLATE NOCASE, organisation.id')
    .select(
      'organisation.id',
      'organisation.name',
      db.raw('count(DISTINCT enrolment.learner_id) AS people'),
      db.raw('count(DISTINCT enrolment.course_id) AS courses'),
      db.raw(`${sum(IS_NOT_STARTED)} AS not_started`),
      db.raw(`count(*) - ${sum(IS_NOT_STARTED)} - ${sum(IS_COMPLETED)} - ${sum(IS_ENDED)} AS under_way`),
      db.raw(`${sum(IS_COMPLETED)} - ${sum(IS_CERTIFIED)} AS completed`),
      db.raw(`${sum(IS_CERTIFIED)} AS certified`),
      db.raw(`${sum(IS_ENDED)} AS ended`),
    );
}

export const ENROLMENT_STANDS = ['not_started', 'under_way', 'completed', 'certified', 'ended'] as const;
export type EnrolmentStand = (typeof ENROLMENT_STANDS)[number];

/** An enrolment of somebody in view: how far it is, and since when. */
export interface PlacedEnrolment {
  id: number;
  learner_id: string;
  name: string;
  course: string;
  title: string;
  stand: EnrolmentStand;
  enrolled_day: number;
  /** The first day with an event in the course. */
  first_day: number | null;
  /** When all that is required was done; null where only the roster says that they completed it, or they have not. */
  completed_at: number | null;
  ended_day: number | null;
}

/** Every enrolment in view, ended ones included, by course and name: how far each is, told as the counts tell it. */
export async function placedEnrolments(db: Db, view: View, learnerId?: number): Promise<PlacedEnrolment[]> {
  const { id, name, sort } = personColumns(view.viewer);
  return seenEnrolments(db, view, 'all')
    .modify((query) => {
      if (learnerId !== undefined) query.where('enrolment.learner_id', learnerId);
    })
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .leftJoin('enrolment_progress as s', 's.enrolment_id', 'enrolment.id')
    .leftJoin('learner_course as lc', (on) =>
      on.on('lc.learner_id', 'enrolment.learner_id').andOn('lc.course_id', 'enrolment.course_id'),
    )
    .orderByRaw(`course.title, ${sort}, enrolment.id`)
    .select(
      'enrolment.id',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'course.code as course',
      'course.title',
      db.raw(`CASE WHEN ${IS_CERTIFIED} THEN 'certified' WHEN ${IS_COMPLETED} THEN 'completed' WHEN ${IS_ENDED} THEN 'ended'
        WHEN ${IS_NOT_STARTED} THEN 'not_started' ELSE 'under_way' END AS stand`),
      'enrolment.enrolled_day',
      db.raw(`(SELECT min(d.day) FROM learner_day d WHERE d.learner_id = enrolment.learner_id
        AND d.course_id = enrolment.course_id AND d.events > 0) AS first_day`),
      's.completed_at',
      'enrolment.ended_day',
    );
}

/** The organisation of each of some learners, seen already, who has one. */
export async function organisationsOfLearners(db: Db, learnerIds: readonly number[]): Promise<Map<number, number>> {
  const rows: { id: number; organisation_id: number }[] = await db('learner')
    .whereIn('id', idList(db, learnerIds))
    .whereNotNull('organisation_id')
    .select('id', 'organisation_id');
  return new Map(rows.map(({ id, organisation_id }) => [id, organisation_id]));
}
