/** A part of what somebody sees, as most lists can be cut to one. */
import { IsOptional, MaxLength } from 'class-validator';
import { Filter } from './list';
import { ListQuery } from './list-query';

const long = { message: 'is too long' };

export class SegmentQuery extends ListQuery {
  @Filter({
    help: 'a course, by its code',
    says: (code) => `Course ${code}`,
    control: { as: 'choice', label: 'Course', choices: 'courses' },
    replaces: ['group', 'unit', 'item'],
  })
  @IsOptional()
  @MaxLength(200, long)
  course?: string;

  @Filter({
    help: 'a group, as COURSE/GROUP, or by its name beside a course',
    says: (name) => `Group ${name}`,
    control: { as: 'choice', label: 'Group', choices: 'groups' },
    replaces: ['course'],
  })
  @IsOptional()
  @MaxLength(200, long)
  group?: string;

  @Filter({
    help: 'an organisation, by its name',
    says: (name) => name,
    control: { as: 'choice', label: 'Organisation', choices: 'organisations' },
  })
  @IsOptional()
  @MaxLength(200, long)
  organisation?: string;

  @Filter({
    help: 'a caseload of one’s own or a shared one, by its number or name',
    says: (name) => `Caseload ${name}`,
  })
  @IsOptional()
  @MaxLength(200, long)
  caseload?: string;
}
