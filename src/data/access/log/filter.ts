/** What narrows the access log, as conditions on its rows. */
import type { Knex } from 'knex';
import type { Db } from '@/data/db';
import { courseRowInScope, isOfSome, learnerOf, type ViewScope } from '@/data/scope';
import { idList } from '@/data/view';

/** Staff events: left out, shown beside learners', or alone. */
export type StaffShown = 'no' | 'yes' | 'only';

export interface LogFilter {
  learnerId?: number;
  /** One item, or those of a unit. Empty finds nothing. */
  itemIds?: readonly number[];
  /** One action, or those of a kind. Empty finds nothing. */
  actionIds?: readonly number[];
  staff: StaffShown;
  from?: number;
  /** Not included. */
  to?: number;
}

/** What the way into the log has settled already, so that it need not be asked of each row. */
export type Settled = 'learnerId' | 'itemIds' | 'actionIds' | 'courses' | 'learners';

/** Does anything but the log itself narrow whose events are shown: scope, group, organisation or caseload? */
export function narrowsLearners({ viewer, segment }: ViewScope): boolean {
  return !viewer.all || isOfSome(segment);
}

/** Are staff events left out, by the filter or since a group or organisation is looked at? */
export function isLearnersAlone({ segment }: ViewScope, { staff }: LogFilter): boolean {
  return staff === 'no' || isOfSome(segment);
}

/**
 * The conditions on a row of `event`: the viewer's scope first of all. Staff events are seen by
 * those who see the whole course, and never when a group or organisation is looked at.
 */
export function eventMatches(
  db: Db,
  scope: ViewScope,
  filter: LogFilter,
  settled: readonly Settled[] = [],
): (query: Knex.QueryBuilder) => void {
  const { viewer, segment } = scope;
  const open = (what: Settled) => !settled.includes(what);
  return (query) => {
    if (filter.staff === 'no') query.whereNotNull('event.learner_id');
    if (filter.staff === 'only') query.whereNull('event.learner_id');
    if (!viewer.all) {
      query.where((either) => {
        either.where((own) => own.whereNotNull('event.learner_id').where(courseRowInScope(db, viewer, 'event')));
        if (filter.staff !== 'no') {
          either.orWhere((staff) => staff.whereNull('event.learner_id').whereIn('event.course_id', viewer.courses));
        }
      });
    }
    if (segment.courseId !== undefined && open('courses')) query.where('event.course_id', segment.courseId);
    if (filter.learnerId !== undefined && open('learnerId')) query.where('event.learner_id', filter.learnerId);
    if (filter.itemIds && open('itemIds')) query.whereIn('event.item_id', idList(db, filter.itemIds));
    if (filter.actionIds && open('actionIds')) query.whereIn('event.action_id', idList(db, filter.actionIds));
    if (filter.from !== undefined) query.where('event.at', '>=', filter.from);
    if (filter.to !== undefined) query.where('event.at', '<', filter.to);
    // What has to be looked up of each row comes last.
    if (segment.groupId !== undefined) {
      query.whereExists(
        db('enrolment as g')
          .whereRaw('g.learner_id = event.learner_id AND g.course_id = event.course_id')
          .where('g.group_id', segment.groupId),
      );
    }
    if (open('learners')) query.where(learnerOf(segment, 'event.learner_id'));
  };
}
