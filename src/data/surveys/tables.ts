/** Tables of surveys. */
import type { QuestionKind } from '@/core/surveys/survey';
import { integer, orNull, text, type TableColumns } from '../column';

export const SURVEYS_TABLES = {
  survey: { id: integer(), name: text() },
  survey_question: {
    id: integer(),
    survey_id: integer(),
    question: text(),
    kind: text<QuestionKind>(),
    position: integer(),
  },
  survey_answer: {
    id: integer(),
    question_id: integer(),
    learner_id: orNull(integer()),
    course_id: integer(),
    asked_at: integer(),
    answer: text(),
    ordinal: integer(),
  },
} as const satisfies TableColumns;
