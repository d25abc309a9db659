/** People of a finished course whom a trial missed, or called for nothing. */
import type { Db } from '../db';
import { personColumns } from '../person';
import { learnerInScope, type Viewer } from '../scope';
import { idList } from '../view';

export interface FoundRow {
  enrolment_id: number;
  /** The database's own. */
  learner: number;
  learner_id: string;
  name: string;
  course_id: number;
  course: string;
  starts_day: number;
  ends_day: number;
}

/** Those of some enrolments whom the viewer may see. */
export async function foundLearners(db: Db, viewer: Viewer, enrolmentIds: readonly number[]): Promise<FoundRow[]> {
  const { id, name } = personColumns(viewer);
  return db('enrolment')
    .join('learner', 'learner.id', 'enrolment.learner_id')
    .join('course', 'course.id', 'enrolment.course_id')
    .whereIn('enrolment.id', idList(db, enrolmentIds))
    .whereNull('learner.merged_into')
    .where(learnerInScope(db, viewer))
    .select(
      'enrolment.id as enrolment_id',
      'learner.id as learner',
      db.raw(`${id} AS learner_id`),
      db.raw(`${name} AS name`),
      'course.id as course_id',
      'course.code as course',
      'course.starts_day',
      'course.ends_day',
    );
}
