/** Tables of grades. */
import type { WorkSource } from '@/core/work/source';
import { integer, orNull, real, text, type TableColumns } from '../column';

export const GRADES_TABLES = {
  grade_change: {
    id: integer(),
    learner_id: integer(),
    item_id: integer(),
    number: integer(),
    at: integer(),
    old_score: orNull(real),
    score: orNull(real),
    old_points: orNull(real),
    points: orNull(real),
    staff_id: orNull(integer()),
    grader: orNull(text()),
    why: text(),
    source: text<WorkSource>(),
  },
  question: {
    id: integer(),
    item_id: integer(),
    external_id: text(),
    title: text(),
    right_answer: orNull(text()),
  },
  response: {
    id: integer(),
    question_id: integer(),
    learner_id: integer(),
    attempt: integer(),
    answer: text(),
    right_answer: orNull(text()),
    score: orNull(real),
    points: orNull(real),
    answered_at: orNull(integer()),
  },
} as const satisfies TableColumns;
