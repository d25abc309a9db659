/** Tables of courses and what is in them. */
import type { ItemKind, Stage } from '@/core/courses/item-kinds';
import type { AttemptPolicy } from '@/core/work/attempt';
import { integer, orNull, real, text, type TableColumns } from '../column';

export const COURSES_TABLES = {
  course: {
    id: integer(),
    code: text(),
    title: text(),
    starts_day: orNull(integer()),
    ends_day: orNull(integer()),
    pass_mark: orNull(real),
    provisional: orNull(integer()),
  },
  course_break: {
    id: integer(),
    course_id: integer(),
    from_day: integer(),
    to_day: integer(),
    reason: text(),
  },
  course_group: {
    id: integer(),
    course_id: integer(),
    name: text(),
  },
  course_option: {
    course_id: integer(),
    name: text(),
    value: text(),
  },
  item: {
    id: integer(),
    course_id: integer(),
    unit_id: orNull(integer()),
    external_id: text(),
    title: text(),
    kind: text<ItemKind>(),
    required: integer(),
    opens_at: orNull(integer()),
    due_at: orNull(integer()),
    points: orNull(real),
    category: orNull(text()),
    weight: orNull(real),
    changed_at: orNull(integer()),
    done_when: orNull(text()),
    position: integer(),
    url: orNull(text()),
    must: integer(),
    stage: orNull(text<Stage>()),
    policy: text<AttemptPolicy>(),
    by_hand: text(),
    removed_at: orNull(integer()),
    imported_by: orNull(integer()),
    provisional: orNull(integer()),
  },
  unit: {
    id: integer(),
    course_id: integer(),
    title: text(),
    position: integer(),
  },
} as const satisfies TableColumns;
