/** The kinds of file that are taken, each with its columns as a class of checks. */
import { IsEmail, IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import {
  HasNoSlash,
  IsDate,
  IsDoneWhen,
  IsInstant,
  IsNumeral,
  IsOfOurTime,
  IsPlainlyVisible,
  NotNegative,
} from './validators';

const required = { message: 'is missing' };
const ID = 200;
const TEXT = 500;
const tooLong = { message: (args: { constraints: unknown[] }) => `is longer than ${args.constraints[0]} characters` };
const oneOf = {
  message: (args: { constraints: unknown[] }) => `is not one of ${(args.constraints[0] as string[]).join(', ')}`,
};

export const ITEM_KINDS = ['page', 'file', 'link', 'video', 'quiz', 'assignment', 'discussion', 'session'] as const;
export type ItemKind = (typeof ITEM_KINDS)[number];
export const ENROLMENT_STATUSES = ['active', 'withdrawn', 'completed'] as const;
export type EnrolmentStatus = (typeof ENROLMENT_STATUSES)[number];
export const STAFF_ROLES = ['lead', 'instructor', 'mentor', 'coordinator'] as const;
export type StaffRole = (typeof STAFF_ROLES)[number];
export const SCOPE_KINDS = ['all', 'organisation', 'course', 'group', 'learner'] as const;
export type ScopeKind = (typeof SCOPE_KINDS)[number];

/** One enrolment. */
class RosterRow {
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() learner_id!: string;
  @IsNotEmpty(required) @MaxLength(TEXT, tooLong) given_name!: string;
  @IsOptional() @MaxLength(TEXT, tooLong) family_name?: string;
  @IsOptional() @IsEmail({}, { message: 'is not an e-mail address' }) email?: string;
  @IsOptional() @MaxLength(60, tooLong) phone?: string;
  @IsOptional() @MaxLength(ID, tooLong) @IsPlainlyVisible() organisation?: string;
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() @HasNoSlash() course!: string;
  @IsOptional() @MaxLength(ID, tooLong) @IsPlainlyVisible() group?: string;
  @IsOptional() @IsDate() @IsOfOurTime() enrolled_on?: string;
  @IsOptional() @IsIn(ENROLMENT_STATUSES, oneOf) status?: string;
  @IsOptional() @IsDate() @IsOfOurTime() ended_on?: string;
}

/** One course item. */
class OutlineRow {
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() @HasNoSlash() course!: string;
  @IsOptional() @MaxLength(TEXT, tooLong) course_title?: string;
  @IsOptional() @IsDate() @IsOfOurTime() starts_on?: string;
  @IsOptional() @IsDate() @IsOfOurTime() ends_on?: string;
  @IsOptional() @MaxLength(TEXT, tooLong) unit?: string;
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() item_id!: string;
  @IsNotEmpty(required) @MaxLength(TEXT, tooLong) item!: string;
  @IsNotEmpty(required) @IsIn(ITEM_KINDS, oneOf) kind!: string;
  @IsOptional() @IsIn(['yes', 'no'], oneOf) required?: string;
  @IsOptional() @IsInstant() @IsOfOurTime() opens_at?: string;
  @IsOptional() @IsInstant() @IsOfOurTime() due_at?: string;
  @IsOptional() @IsNumeral() @NotNegative() points?: string;
  @IsOptional() @MaxLength(ID, tooLong) category?: string;
  @IsOptional() @IsNumeral() @NotNegative() weight?: string;
  @IsOptional() @IsInstant() @IsOfOurTime() changed_at?: string;
  @IsOptional() @IsDoneWhen() done_when?: string;
}

/** One scope of one member of staff. */
class StaffRow {
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() staff_id!: string;
  @IsNotEmpty(required) @MaxLength(TEXT, tooLong) given_name!: string;
  @IsOptional() @MaxLength(TEXT, tooLong) family_name?: string;
  @IsNotEmpty(required) @IsEmail({}, { message: 'is not an e-mail address' }) email!: string;
  @IsNotEmpty(required) @IsIn(STAFF_ROLES, oneOf) role!: string;
  @IsNotEmpty(required) @IsIn(SCOPE_KINDS, oneOf) scope_kind!: string;
  @IsOptional() @MaxLength(ID, tooLong) scope?: string;
}

/** One event. */
class AccessLogRow {
  @IsNotEmpty(required) @IsInstant() @IsOfOurTime() time!: string;
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() learner_id!: string;
  @IsNotEmpty(required) @MaxLength(ID, tooLong) @IsPlainlyVisible() @HasNoSlash() course!: string;
  @IsOptional() @MaxLength(ID, tooLong) @IsPlainlyVisible() item_id?: string;
  @IsNotEmpty(required) @MaxLength(ID, tooLong) action!: string;
  @IsOptional() @MaxLength(ID, tooLong) address?: string;
  @IsOptional() @MaxLength(ID, tooLong) @IsPlainlyVisible() event_id?: string;
}

export interface FileKind {
  row: new () => object;
  /** What the file holds, in words. */
  says: string;
  columns: readonly string[];
}

export const FILE_KINDS = {
  outline: {
    row: OutlineRow,
    says: 'courses, units and items',
    columns: [
      'course',
      'course_title',
      'starts_on',
      'ends_on',
      'unit',
      'item_id',
      'item',
      'kind',
      'required',
      'opens_at',
      'due_at',
      'points',
      'category',
      'weight',
      'changed_at',
      'done_when',
    ],
  },
  roster: {
    row: RosterRow,
    says: 'learners and their enrolments',
    columns: [
      'learner_id',
      'given_name',
      'family_name',
      'email',
      'phone',
      'organisation',
      'course',
      'group',
      'enrolled_on',
      'status',
      'ended_on',
    ],
  },
  staff: {
    row: StaffRow,
    says: 'staff with their roles and scopes',
    columns: ['staff_id', 'given_name', 'family_name', 'email', 'role', 'scope_kind', 'scope'],
  },
  'access-log': {
    row: AccessLogRow,
    says: 'who opened or did what, and when',
    columns: ['time', 'learner_id', 'course', 'item_id', 'action', 'address', 'event_id'],
  },
} as const satisfies Record<string, FileKind>;

export type FileKindName = keyof typeof FILE_KINDS;
export const FILE_KIND_NAMES = Object.keys(FILE_KINDS) as FileKindName[];

export function isFileKind(name: string): name is FileKindName {
  return Object.hasOwn(FILE_KINDS, name);
}
