import { SCOPE_KINDS, STAFF_ROLES } from '@/core/staff/roles';
import { Needed } from '../column';
import { MAIL } from '../validators';
import { EMAIL, FAMILY_NAME, GIVEN_NAME, NeededId, NeededText, NeededWord, OptionalText } from './shared';

/** One scope of one member of staff. */
export class StaffRow {
  @NeededId({
    says: 'their id, as the course platform’s log has it',
    synonyms: ['id', 'user_id', 'username', 'employee_id', 'person_id', 'number'],
  })
  staff_id!: string;

  @NeededText(GIVEN_NAME)
  given_name!: string;

  @OptionalText(FAMILY_NAME)
  family_name?: string;

  @Needed(EMAIL, MAIL)
  email!: string;

  @NeededWord({ says: STAFF_ROLES.join(', '), synonyms: ['position', 'job', 'staff_role'] }, STAFF_ROLES)
  role!: string;

  @NeededWord({ says: SCOPE_KINDS.join(', '), synonyms: ['sees', 'scope_type', 'level'] }, SCOPE_KINDS)
  scope_kind!: string;

  @OptionalText({ says: 'which one: a name, a code, COURSE/GROUP or an id' }, 200)
  scope?: string;
}
