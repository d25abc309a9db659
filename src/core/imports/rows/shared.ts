/** What rows of several kinds have in common. */

export const required = { message: 'is missing' };
/** Letters of an id at most. */
export const ID = 200;
/** Letters of a title or a name at most. */
export const TEXT = 500;
export const tooLong = {
  message: (args: { constraints: unknown[] }) => `is longer than ${args.constraints[0]} characters`,
};
export const oneOf = {
  message: (args: { constraints: unknown[] }) => `is not one of ${(args.constraints[0] as string[]).join(', ')}`,
};
export const notMail = { message: 'is not an e-mail address' };

export const COURSE = {
  says: 'the course’s code',
  synonyms: ['course_code', 'course_id', 'class', 'module', 'programme', 'course_name', 'subject'],
};
export const LEARNER = {
  says: 'the learner’s id, as the course platform’s log has it',
  synonyms: [
    'id',
    'student_id',
    'student_number',
    'user_id',
    'username',
    'user',
    'learner',
    'student',
    'participant_id',
    'person_id',
    'number',
    'member_id',
  ],
};
export const ITEM = {
  says: 'the item’s id',
  synonyms: ['item', 'activity_id', 'resource_id', 'content_id', 'object_id', 'page_id'],
};
export const GIVEN_NAME = {
  says: 'given name',
  synonyms: ['first_name', 'firstname', 'forename', 'forenames', 'christian_name', 'given_names', 'givenname'],
};
export const FAMILY_NAME = { says: 'family name', synonyms: ['last_name', 'lastname', 'surname', 'familyname'] };
export const EMAIL = {
  says: 'e-mail address',
  synonyms: ['e_mail', 'mail', 'email_address', 'e_mail_address'],
};
