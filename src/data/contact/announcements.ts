/** Messages to many at once that are about nobody. */
import type { Knex } from 'knex';
import { ANNOUNCED_TO } from '@/core/contact/announcement';
import type { Db } from '../db';

/** Drafts that went to more learners than an announcement's edge, and of which their writer did not say that they are about them. */
export function announcements(db: Db): Knex.QueryBuilder {
  return db('message')
    .join('draft', 'draft.id', 'message.draft_id')
    .where('draft.is_about', 0)
    .where('message.receiver', 'learner')
    .groupBy('message.draft_id')
    .having(db.raw('count(*)'), '>', ANNOUNCED_TO)
    .select('message.draft_id');
}
