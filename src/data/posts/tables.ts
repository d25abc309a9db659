/** Tables of posts. */
import { integer, orNull, text, type TableColumns } from '../column';

export const POSTS_TABLES = {
  post: {
    id: integer(),
    learner_id: orNull(integer()),
    staff_id: orNull(integer()),
    course_id: integer(),
    item_id: orNull(integer()),
    at: integer(),
    text: text(),
    words: integer(),
    external_id: orNull(text()),
    reply_to: orNull(text()),
    statement_id: orNull(integer()),
  },
} as const satisfies TableColumns;
