import { ENROLMENT_STATUSES } from '@/core/people/enrolment';
import { Optional } from '../column';
import { MAIL } from '../validators';
import {
  CourseCode,
  EMAIL,
  FAMILY_NAME,
  GIVEN_NAME,
  LEARNER,
  NeededId,
  NeededText,
  OptionalDate,
  OptionalId,
  OptionalText,
  OptionalWord,
} from './shared';

/** One enrolment. */
export class RosterRow {
  @NeededId(LEARNER)
  learner_id!: string;

  @NeededText(GIVEN_NAME)
  given_name!: string;

  @OptionalText(FAMILY_NAME)
  family_name?: string;

  @Optional(EMAIL, MAIL)
  email?: string;

  @OptionalText(
    {
      says: 'telephone number',
      synonyms: ['telephone', 'tel', 'mobile', 'mobile_phone', 'phone_number', 'telephone_number', 'cell'],
      looks: /^\+?[\d\s()/-]{7,}$/,
    },
    60,
  )
  phone?: string;

  @OptionalId({
    says: 'the partner or employer they come by',
    synonyms: ['organization', 'company', 'employer', 'partner', 'institution', 'firm', 'sponsor'],
  })
  organisation?: string;

  @CourseCode()
  course!: string;

  @OptionalId({
    says: 'group within the course',
    synonyms: ['cohort', 'section', 'team', 'group_name', 'class_group', 'stream'],
  })
  group?: string;

  @OptionalDate({
    says: 'first day',
    synonyms: [
      'enrolment_date',
      'enrollment_date',
      'start_date',
      'started',
      'joined',
      'date_enrolled',
      'enrolled',
      'from',
    ],
  })
  enrolled_on?: string;

  @OptionalWord(
    { says: 'active, withdrawn or completed', synonyms: ['state', 'enrolment_status', 'enrollment_status'] },
    ENROLMENT_STATUSES,
  )
  status?: string;

  @OptionalDate({
    says: 'last day, of one that has ended',
    synonyms: ['end_date', 'left', 'leaving_date', 'withdrawn_on', 'date_left', 'to', 'until'],
  })
  ended_on?: string;
  @OptionalText({ says: 'what the course is called, where no outline says' })
  course_title?: string;

  @OptionalDate({ says: 'the course’s first day, where no outline says' })
  course_starts_on?: string;

  @OptionalDate({ says: 'the course’s last day, where no outline says' })
  course_ends_on?: string;
}
