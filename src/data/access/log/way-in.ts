/** Choosing the index by which the fewest events are walked until a page is full. */
import { courseOfGroup } from '@/data/courses/courses';
import type { Db } from '@/data/db';
import { enrolmentInSegment, enrolmentInScope, type ViewScope } from '@/data/scope';
import { eventsOfActions } from '@/data/imports/mappings';
import { isLearnersAlone, narrowsLearners, type LogFilter, type Settled } from './filter';

/** One way into the log: rows whose `column` has one of the keys, each key's by time. */
export interface WayIn {
  index: string;
  /** Null: by time alone. */
  column: 'learner_id' | 'item_id' | 'course_id' | 'action_id' | null;
  keys: readonly number[];
  settled: readonly Settled[];
  /** About how many events there are on this way; null where nobody knows. */
  events: number | null;
}

/** More learners than this are not walked one by one. */
const MANY_LEARNERS = 400;
/** An action, or the actions of a kind, with at least this share of the log is met soon enough by time. */
const FREQUENT = 0.05;

const BY_TIME: WayIn = { index: 'event_at', column: null, keys: [], settled: [], events: null };

/** The learners in view, ended ones included, with how much they did; null when there are many. */
export async function fewLearners(db: Db, { viewer, segment }: ViewScope): Promise<WayIn | null> {
  const [few] = await db
    .with(
      'few',
      db('enrolment')
        .where(enrolmentInScope(viewer))
        .where(enrolmentInSegment(segment))
        .distinct('learner_id')
        .limit(MANY_LEARNERS + 1),
    )
    .select(
      db.raw('(SELECT json_group_array(learner_id) FROM few) AS ids'),
      db.raw(
        `(SELECT total(events) FROM few CROSS JOIN learner_course USING (learner_id)
          ${segment.courseId === undefined ? '' : `WHERE course_id = ${segment.courseId}`}) AS events`,
      ),
    );
  const ids: number[] = JSON.parse(few.ids);
  if (ids.length > MANY_LEARNERS) return null;
  return {
    index: 'event_learner',
    column: 'learner_id',
    keys: ids,
    settled: ['learners'],
    events: few.events,
  };
}

/** The way in for a filter. */
export async function wayInto(db: Db, scope: ViewScope, filter: LogFilter): Promise<WayIn> {
  const { viewer, segment } = scope;
  const one = (
    column: 'learner_id' | 'item_id' | 'course_id' | 'action_id',
    keys: readonly number[],
    settled: Settled,
  ) => ({
    ...BY_TIME,
    index: `event_${column.replace('_id', '')}`,
    column,
    keys,
    settled: [settled],
  });
  if (filter.learnerId !== undefined) return one('learner_id', [filter.learnerId], 'learnerId');
  if (filter.itemIds) return one('item_id', filter.itemIds, 'itemIds');
  // A group is a good part of its course, whose index tells the learner.
  if (segment.groupId !== undefined) return one('course_id', [await courseOfGroup(db, segment.groupId)], 'courses');
  if (narrowsLearners(scope) && isLearnersAlone(scope, filter)) {
    const few = await fewLearners(db, scope);
    if (few) return few;
  }
  if (segment.courseId !== undefined) return one('course_id', [segment.courseId], 'courses');
  const wholeCourses =
    viewer.courses.length > 0 && viewer.groups.length + viewer.organisations.length + viewer.learners.length === 0;
  if (!viewer.all && wholeCourses) return { ...one('course_id', viewer.courses, 'courses'), settled: [] };
  if (!filter.actionIds) return BY_TIME;
  const { own, share } = await eventsOfActions(db, filter.actionIds);
  // Where learners are narrowed too, an action's own events are the fewer to ask of each whose it is.
  if (share >= FREQUENT && !narrowsLearners(scope)) return BY_TIME;
  return { ...one('action_id', filter.actionIds, 'actionIds'), events: own };
}
