import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { ENROLMENT_STATUSES } from '@/core/people/enrolment';
import { Column } from '../column';
import { HasNoSlash, IsDate, IsOfOurTime, IsPlainlyVisible } from '../validators';
import { COURSE, EMAIL, FAMILY_NAME, GIVEN_NAME, ID, LEARNER, TEXT, notMail, oneOf, required, tooLong } from './shared';

/** One enrolment. */
export class RosterRow {
  @Column(LEARNER)
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  learner_id!: string;

  @Column(GIVEN_NAME)
  @IsNotEmpty(required)
  @MaxLength(TEXT, tooLong)
  given_name!: string;

  @Column(FAMILY_NAME)
  @IsOptional()
  @MaxLength(TEXT, tooLong)
  family_name?: string;

  @Column(EMAIL)
  @IsOptional()
  @IsEmail({}, notMail)
  email?: string;

  @Column({
    says: 'telephone number',
    synonyms: ['telephone', 'tel', 'mobile', 'mobile_phone', 'phone_number', 'telephone_number', 'cell'],
    looks: /^\+?[\d\s()/-]{7,}$/,
  })
  @IsOptional()
  @MaxLength(60, tooLong)
  phone?: string;

  @Column({
    says: 'the partner or employer they come by',
    synonyms: ['organization', 'company', 'employer', 'partner', 'institution', 'firm', 'sponsor'],
  })
  @IsOptional()
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  organisation?: string;

  @Column(COURSE)
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  @HasNoSlash()
  course!: string;

  @Column({
    says: 'group within the course',
    synonyms: ['cohort', 'section', 'team', 'group_name', 'class_group', 'stream'],
  })
  @IsOptional()
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  group?: string;

  @Column({
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
  @IsOptional()
  @IsDate()
  @IsOfOurTime()
  enrolled_on?: string;

  @Column({ says: 'active, withdrawn or completed', synonyms: ['state', 'enrolment_status', 'enrollment_status'] })
  @IsOptional()
  @IsIn(ENROLMENT_STATUSES, oneOf)
  status?: string;

  @Column({
    says: 'last day, of one that has ended',
    synonyms: ['end_date', 'left', 'leaving_date', 'withdrawn_on', 'date_left', 'to', 'until'],
  })
  @IsOptional()
  @IsDate()
  @IsOfOurTime()
  ended_on?: string;
}
