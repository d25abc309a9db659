/** What rows of several kinds have in common: columns, and checks that stand together. */
import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { Column, type ColumnSpec } from '../column';
import { HasNoSlash, IsDate, IsInstant, IsNumeral, IsOfOurTime, IsPlainlyVisible, NotNegative } from '../validators';

export const required = { message: 'is missing' };
/** Letters of an id at most. */
const ID = 200;
/** Letters of a title or a name at most. */
const TEXT = 500;
const tooLong = {
  message: (args: { constraints: unknown[] }) => `is longer than ${args.constraints[0]} characters`,
};
const oneOf = {
  message: (args: { constraints: unknown[] }) => `is not one of ${(args.constraints[0] as string[]).join(', ')}`,
};
export const notMail = { message: 'is not an e-mail address' };

const COURSE = {
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

/** Several decorators as one; like those that are written above each other, the last is applied first. */
function all(...decorators: PropertyDecorator[]): PropertyDecorator {
  return (prototype, name) => [...decorators].reverse().forEach((decorate) => decorate(prototype, name));
}

/** An id that has to stand in every row. */
export const NeededId = (spec: ColumnSpec) =>
  all(Column(spec), IsNotEmpty(required), MaxLength(ID, tooLong), IsPlainlyVisible());

/** A course's code: as an id, without the stroke that stands between a course and its group. */
export const CourseCode = () => all(NeededId(COURSE), HasNoSlash());

/** An id that may be left out. */
export const OptionalId = (spec: ColumnSpec) =>
  all(Column(spec), IsOptional(), MaxLength(ID, tooLong), IsPlainlyVisible());

/** A name or title that has to stand in every row. */
export const NeededText = (spec: ColumnSpec) => all(Column(spec), IsNotEmpty(required), MaxLength(TEXT, tooLong));

/** A name or title that may be left out. */
export const OptionalText = (spec: ColumnSpec, most = TEXT) =>
  all(Column(spec), IsOptional(), MaxLength(most, tooLong));

/** A date that may be left out. */
export const OptionalDate = (spec: ColumnSpec) => all(Column(spec), IsOptional(), IsDate(), IsOfOurTime());

/** A time that may be left out. */
export const OptionalTime = (spec: ColumnSpec) => all(Column(spec), IsOptional(), IsInstant(), IsOfOurTime());

/** A number from 0 on that may be left out. */
export const OptionalNumber = (spec: ColumnSpec) => all(Column(spec), IsOptional(), IsNumeral(), NotNegative());

/** One of some words that has to stand in every row. */
export const NeededWord = (spec: ColumnSpec, words: readonly string[]) =>
  all(Column(spec), IsNotEmpty(required), IsIn(words, oneOf));

/** One of some words, or none. */
export const OptionalWord = (spec: ColumnSpec, words: readonly string[]) =>
  all(Column(spec), IsOptional(), IsIn(words, oneOf));
