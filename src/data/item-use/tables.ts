/** Tables of questions that are kept. */
import { integer, orNull, text, type TableColumns } from '../column';

export const ITEM_USE_TABLES = {
  saved_check: {
    id: integer(),
    staff_id: integer(),
    name: text(),
    query: text(),
    limit_count: integer(),
    created_at: integer(),
    last_day: orNull(integer()),
    last_count: orNull(integer()),
    last_of: orNull(integer()),
    passed_at: orNull(integer()),
    seen_at: orNull(integer()),
    fault: orNull(text()),
  },
} as const satisfies TableColumns;
