/** What the roster's forms and calls take. */
import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { AsDay } from '../request/input';
import { CHANNELS, type Channel } from '@/core/contact/recipient';
import { ENROLMENT_STATUSES } from '@/core/people/enrolment';
import { IsOfOurTime, IsPlainlyVisible, IsZone } from '@/core/imports/validators';

const missing = { message: 'is missing' };
export const long = { message: 'is longer than 200 characters' };
const mail = { message: 'is not an e-mail address' };

/** How a learner is reached: what their mentors may change. */
export class CapacityInput {
  @IsOptional() @IsEmail({}, mail) email?: string;
  @IsOptional() @MaxLength(60, { message: 'is longer than 60 characters' }) phone?: string;
  @IsOptional() @IsIn(CHANNELS, { message: `is not one of ${CHANNELS.join(', ')}` }) preferred_channel?: Channel;
  @IsOptional() @IsZone() timezone?: string;
}

/** Who a learner is as well: what a lead may change. */
export class LearnerInput extends CapacityInput {
  @IsNotEmpty(missing) @MaxLength(200, long) given_name!: string;
  @IsOptional() @MaxLength(200, long) family_name?: string;
  @IsOptional() @MaxLength(200, long) @IsPlainlyVisible() organisation?: string;
}

export class EnrolInput {
  @IsNotEmpty(missing) @MaxLength(200, long) course!: string;
  @IsOptional() @MaxLength(200, long) @IsPlainlyVisible() group?: string;
  @IsOptional() @AsDay() @IsOfOurTime() enrolled_on?: number;
}

export class NewLearnerInput extends LearnerInput {
  @IsNotEmpty(missing) @MaxLength(200, long) @IsPlainlyVisible() learner_id!: string;
  @IsNotEmpty(missing) @MaxLength(200, long) course!: string;
  @IsOptional() @MaxLength(200, long) @IsPlainlyVisible() group?: string;
  @IsOptional() @AsDay() @IsOfOurTime() enrolled_on?: number;
}

const ENDINGS = ENROLMENT_STATUSES.filter((status) => status !== 'active');

export class EndInput {
  @IsIn(ENDINGS, { message: `is not one of ${ENDINGS.join(', ')}` }) status!: (typeof ENDINGS)[number];
  @IsOptional() @AsDay() @IsOfOurTime() ended_on?: number;
}

export class OtherContactInput {
  @IsNotEmpty(missing) @MaxLength(200, long) name!: string;
  @IsNotEmpty(missing) @MaxLength(60, { message: 'is longer than 60 characters' }) relation!: string;
  @IsOptional() @IsEmail({}, mail) email?: string;
  @IsOptional() @MaxLength(60, { message: 'is longer than 60 characters' }) phone?: string;
  /** May reports on the learner be sent to them? */
  @IsOptional() @IsIn(['yes', 'no'], { message: 'is not yes or no' }) may_receive?: 'yes' | 'no';
  /** Who said so, and how: "she asked for it on the telephone". */
  @IsOptional() @MaxLength(300, { message: 'is longer than 300 characters' }) allowed_words?: string;
}
