import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { SCOPE_KINDS, STAFF_ROLES } from '@/core/staff/roles';
import { Column } from '../column';
import { IsPlainlyVisible } from '../validators';
import { EMAIL, FAMILY_NAME, GIVEN_NAME, ID, TEXT, notMail, oneOf, required, tooLong } from './shared';

/** One scope of one member of staff. */
export class StaffRow {
  @Column({
    says: 'their id, as the course platform’s log has it',
    synonyms: ['id', 'user_id', 'username', 'employee_id', 'person_id', 'number'],
  })
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  staff_id!: string;

  @Column(GIVEN_NAME)
  @IsNotEmpty(required)
  @MaxLength(TEXT, tooLong)
  given_name!: string;

  @Column(FAMILY_NAME)
  @IsOptional()
  @MaxLength(TEXT, tooLong)
  family_name?: string;

  @Column(EMAIL)
  @IsNotEmpty(required)
  @IsEmail({}, notMail)
  email!: string;

  @Column({ says: STAFF_ROLES.join(', '), synonyms: ['position', 'job', 'staff_role'] })
  @IsNotEmpty(required)
  @IsIn(STAFF_ROLES, oneOf)
  role!: string;

  @Column({ says: SCOPE_KINDS.join(', '), synonyms: ['sees', 'scope_type', 'level'] })
  @IsNotEmpty(required)
  @IsIn(SCOPE_KINDS, oneOf)
  scope_kind!: string;

  @Column({ says: 'which one: a name, a code, COURSE/GROUP or an id' })
  @IsOptional()
  @MaxLength(ID, tooLong)
  scope?: string;
}
