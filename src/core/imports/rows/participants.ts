import { ENROLMENT_STATUSES } from '@/core/people/enrolment';
import { Optional } from '../column';
import { IsInstant, IsPercent, type Rule } from '../validators';
import {
  CourseCode,
  LEARNER,
  NeededId,
  OptionalDate,
  OptionalId,
  OptionalNumber,
  OptionalTime,
  OptionalWord,
} from './shared';

/** An instant, or that they were never there. */
const INSTANT_OR_NEVER: Rule = {
  name: 'isInstantOrNever',
  test: (value) => value === 'never' || IsInstant.rule.test(value),
  says: 'is neither a time such as 2026-11-24T09:10:00Z nor never',
};

/** What a platform says of one learner in a course at the moment it is asked. */
export class ParticipantRow {
  @NeededId(LEARNER) learner_id!: string;
  @CourseCode() course!: string;

  @Optional({ says: 'when they were last there, or never', synonyms: ['last_seen', 'last_activity'] }, INSTANT_OR_NEVER)
  last_access?: string;

  @OptionalNumber({ says: 'how exact that is, in seconds: 60 where it has no seconds' })
  exact_to?: string;

  @OptionalWord({ says: 'active, withdrawn or completed', synonyms: ['state'] }, ENROLMENT_STATUSES)
  status?: string;

  @Optional({ says: 'how far the platform says they are, in per cent', synonyms: ['completion'] }, IsPercent.rule)
  progress?: string;

  @OptionalNumber({ says: 'minutes that the platform says they were there', synonyms: ['time_spent'] })
  minutes?: string;

  @OptionalId({ says: 'group within the course', synonyms: ['cohort', 'section'] })
  group?: string;

  @OptionalDate({ says: 'first day, where no roster says', synonyms: ['enrolled', 'date_enrolled'] })
  enrolled_on?: string;
}

/** Whether one learner has done one item, as a platform says. */
export class CompletionRow {
  @NeededId(LEARNER) learner_id!: string;
  @CourseCode() course!: string;
  @NeededId({ says: 'the item’s id', synonyms: ['item', 'activity_id'] }) item_id!: string;
  @OptionalWord({ says: 'yes, no or excused', synonyms: ['completed'] }, ['yes', 'no', 'excused']) done?: string;
  @OptionalTime({ says: 'when it was done', synonyms: ['completed_at', 'done_on'] }) done_at?: string;
}
