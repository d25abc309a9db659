/** Rows of what people wrote: posts of discussions, answers to surveys. */
import { QUESTION_KINDS } from '../../surveys/survey';
import { Optional } from '../column';
import { IsPlainlyVisible, atMost } from '../validators';
import {
  CourseCode,
  ITEM,
  LEARNER,
  NeededId,
  NeededText,
  NeededTime,
  NeededWord,
  OptionalId,
  OptionalText,
} from './shared';

/** One post in a discussion. */
export class PostRow {
  @NeededTime({ says: 'when it was written', synonyms: ['posted_at', 'posted', 'created', 'written_at', 'date'] })
  time!: string;

  @NeededId({ ...LEARNER, says: 'who wrote it: a learner’s id, or a member of staff’s' })
  learner_id!: string;

  @CourseCode() course!: string;

  @OptionalId({ ...ITEM, says: 'the discussion it stands in, by its item’s id; empty for the course’s own' })
  item_id?: string;

  @OptionalText(
    { says: 'what was written, as text or HTML', synonyms: ['message', 'body', 'post', 'content'] },
    100_000,
  )
  text?: string;

  @OptionalId({ says: 'the post’s own id, where the source has one', synonyms: ['message_id', 'entry_id'] })
  post_id?: string;

  @OptionalId({
    says: 'the id of the post it answers',
    synonyms: ['reply_to', 'parent', 'parent_id', 'in_reply_to_id'],
  })
  in_reply_to?: string;
}

/** One answer to a survey’s question. */
export class SurveyAnswerRow {
  @NeededText({ says: 'the survey’s name', synonyms: ['survey_name', 'questionnaire', 'feedback_form'] })
  survey!: string;

  @NeededTime({ says: 'when it was asked', synonyms: ['asked', 'sent_at', 'time', 'date'] })
  asked_at!: string;

  @Optional({ ...LEARNER, says: 'who answered; empty where that is not known' }, atMost(200), IsPlainlyVisible.rule)
  learner_id?: string;

  @CourseCode() course!: string;

  @NeededText({ says: 'what was asked', synonyms: ['question_text', 'item', 'prompt'] })
  question!: string;

  @NeededWord({ says: 'choice, scale or text', synonyms: ['question_kind', 'question_type', 'type'] }, QUESTION_KINDS)
  kind!: string;

  @OptionalText({ says: 'what was answered', synonyms: ['response', 'value', 'reply'] }, 20_000)
  answer?: string;
}
