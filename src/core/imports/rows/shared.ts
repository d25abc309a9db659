/** What rows of several kinds have in common: columns, and checks that stand together. */
import { Needed, Optional, type ColumnSpec } from '../column';
import {
  HasNoSlash,
  IsDate,
  IsInstant,
  IsNumeral,
  IsOfOurTime,
  IsPlainlyVisible,
  NotNegative,
  atMost,
  oneOf,
  type Rule,
} from '../validators';

/** Letters of an id at most. */
const ID = 200;
/** Letters of a title or a name at most. */
const TEXT = 500;
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

/** An id that has to stand in every row. */
export const NeededId = (spec: ColumnSpec) => Needed(spec, atMost(ID), IsPlainlyVisible.rule);

/** A course's code: as an id, without the stroke that stands between a course and its group. */
export const CourseCode = () => Needed(COURSE, atMost(ID), IsPlainlyVisible.rule, HasNoSlash.rule);

/** An id that may be left out. */
export const OptionalId = (spec: ColumnSpec) => Optional(spec, atMost(ID), IsPlainlyVisible.rule);

/** A name or title that has to stand in every row. */
export const NeededText = (spec: ColumnSpec, ...rules: Rule[]) => Needed(spec, atMost(TEXT), ...rules);

/** A name or title that may be left out. */
export const OptionalText = (spec: ColumnSpec, most = TEXT, ...rules: Rule[]) => Optional(spec, atMost(most), ...rules);

/** A date that may be left out. */
export const OptionalDate = (spec: ColumnSpec) => Optional(spec, IsDate.rule, IsOfOurTime.rule);

/** A time that has to stand in every row. */
export const NeededTime = (spec: ColumnSpec) => Needed(spec, IsInstant.rule, IsOfOurTime.rule);

/** A time that may be left out. */
export const OptionalTime = (spec: ColumnSpec) => Optional(spec, IsInstant.rule, IsOfOurTime.rule);

/** A number from 0 on that may be left out. */
export const OptionalNumber = (spec: ColumnSpec) => Optional(spec, IsNumeral.rule, NotNegative.rule);

/** One of some words that has to stand in every row. */
export const NeededWord = (spec: ColumnSpec, words: readonly string[]) => Needed(spec, oneOf(words));

/** One of some words, or none. */
export const OptionalWord = (spec: ColumnSpec, words: readonly string[]) => Optional(spec, oneOf(words));
