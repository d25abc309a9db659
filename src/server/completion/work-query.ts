/** What the lists of work have in common: whose, as of when, and who they are about. */
import { IsIn, IsOptional } from 'class-validator';
import { fullName } from '@/core/people/name';
import type { Enrolled } from '@/data/completion/enrolled';
import { AsDay } from '../request/input';
import { Filter } from '../request/list';
import { SegmentQuery } from '../request/segment-query';

/** A part of what is in view, as of a day. */
export class WorkQuery extends SegmentQuery {
  @Filter({ help: 'as of the end of a past date' }) @IsOptional() @AsDay() as_of?: number;
  @Filter({ help: '`all`: those whose enrolment has ended, too' })
  @IsOptional()
  @IsIn(['active', 'all'], { message: 'is not one of active, all' })
  status?: 'active' | 'all';
}

/** Who a row is about, sorted by name. */
export const ENROLLED_COLUMN = {
  title: 'Learner',
  sort: 'name',
  isKey: true,
  figures: {
    learner_id: ({ enrolled }: { enrolled: Enrolled }) => enrolled.learner_id,
    name: ({ enrolled }: { enrolled: Enrolled }) => fullName(enrolled),
    course: ({ enrolled }: { enrolled: Enrolled }) => enrolled.course,
    group: ({ enrolled }: { enrolled: Enrolled }) => enrolled.group,
  },
};
