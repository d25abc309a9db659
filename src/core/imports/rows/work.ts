/** Rows of work: results, answers to questions, extensions. */
import { Optional } from '../column';
import { IsAttempt } from '../validators';
import {
  CourseCode,
  ITEM,
  LEARNER,
  NeededId,
  OptionalNumber,
  OptionalText,
  OptionalTime,
  OptionalWord,
} from './shared';

const ATTEMPT = {
  says: 'which attempt it is, from 1; 1 where it is left out',
  synonyms: ['try', 'attempt_number', 'attempt_no', 'submission', 'number_of_attempt'],
};
const SCORE = { says: 'points earned', synonyms: ['grade', 'mark', 'result', 'points_earned', 'earned'] };
const POINTS = {
  says: 'points to be had',
  synonyms: ['max_points', 'maximum', 'max_score', 'out_of', 'possible', 'points_possible'],
};

/** One attempt of a learner at an item. */
export class ResultRow {
  @NeededId(LEARNER) learner_id!: string;
  @CourseCode() course!: string;
  @NeededId(ITEM) item_id!: string;

  @Optional(ATTEMPT, IsAttempt.rule) attempt?: string;

  @OptionalTime({ says: 'when it was begun', synonyms: ['started', 'begun', 'begun_at', 'start_time', 'opened'] })
  started_at?: string;

  @OptionalTime({
    says: 'when it was handed in',
    synonyms: ['submitted', 'handed_in', 'handed_in_at', 'completed_at', 'finished', 'submission_time'],
  })
  submitted_at?: string;

  @OptionalNumber(SCORE) score?: string;
  @OptionalNumber(POINTS) points?: string;

  @OptionalTime({ says: 'when it was graded', synonyms: ['graded', 'marked_at', 'grading_time', 'date_graded'] })
  graded_at?: string;

  @OptionalText({ says: 'who graded it: an id or a name', synonyms: ['graded_by', 'marker', 'assessor', 'tutor'] }, 200)
  grader?: string;

  @OptionalText(
    { says: 'feedback, as text or HTML', synonyms: ['comment', 'comments', 'remarks', 'feedback_text'] },
    20_000,
  )
  feedback?: string;
}

/** One answer to one question. */
export class ResponseRow {
  @NeededId(LEARNER) learner_id!: string;
  @CourseCode() course!: string;
  @NeededId(ITEM) item_id!: string;

  @Optional(ATTEMPT, IsAttempt.rule) attempt?: string;

  @NeededId({ says: 'the question’s id', synonyms: ['question_number', 'question_no', 'interaction_id', 'q'] })
  question_id!: string;

  @OptionalText({ says: 'what is asked', synonyms: ['question_text', 'stem', 'prompt'] }, 5000)
  question?: string;

  @OptionalText({ says: 'the answer given', synonyms: ['response', 'learner_response', 'given', 'choice'] }, 5000)
  answer?: string;

  @OptionalText({ says: 'the right answer', synonyms: ['correct', 'correct_answer', 'key', 'solution'] }, 5000)
  right_answer?: string;

  @OptionalNumber(SCORE) score?: string;
  @OptionalNumber(POINTS) points?: string;

  @OptionalTime({ says: 'when it was answered', synonyms: ['answered', 'time', 'timestamp', 'response_time'] })
  answered_at?: string;
}

/** A learner's own date for an item, or that they need not do it. */
export class ExtensionRow {
  @NeededId(LEARNER) learner_id!: string;
  @CourseCode() course!: string;
  @NeededId(ITEM) item_id!: string;

  @OptionalTime({ says: 'their own due date', synonyms: ['extended_to', 'new_due', 'due', 'until', 'extension'] })
  due_at?: string;

  @OptionalWord({ says: 'yes where they need not do it', synonyms: ['exempt', 'excused_from', 'waived'] }, [
    'yes',
    'no',
  ])
  excused?: string;

  @OptionalText({ says: 'why', synonyms: ['note', 'comment', 'remark', 'why'] }, 1000)
  reason?: string;
}

/** The score that counts for a learner's work on an item, as a platform's gradebook has it. */
export class GradebookRow {
  @NeededId(LEARNER) learner_id!: string;
  @CourseCode() course!: string;
  @NeededId(ITEM) item_id!: string;
  @OptionalNumber(SCORE) score?: string;
  @OptionalNumber(POINTS) points?: string;
  @OptionalWord({ says: 'yes where it need not be done', synonyms: ['exempt'] }, ['yes', 'no']) excused?: string;
  @OptionalTime({ says: 'when it was graded', synonyms: ['graded', 'date_graded'] }) graded_at?: string;
  @OptionalTime({ says: 'when it was handed in, where it says', synonyms: ['submitted', 'handed_in'] })
  submitted_at?: string;
}
