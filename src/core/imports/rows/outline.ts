import { IsIn, IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { ITEM_KINDS } from '@/core/courses/item-kinds';
import { Column } from '../column';
import {
  HasNoSlash,
  IsDate,
  IsDoneWhen,
  IsInstant,
  IsNumeral,
  IsOfOurTime,
  IsPlainlyVisible,
  NotNegative,
} from '../validators';
import { COURSE, ID, ITEM, TEXT, oneOf, required, tooLong } from './shared';

/** One course item. */
export class OutlineRow {
  @Column(COURSE)
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  @HasNoSlash()
  course!: string;

  @Column({ says: 'what the course is called', synonyms: ['course_name', 'title_of_course', 'course_full_name'] })
  @IsOptional()
  @MaxLength(TEXT, tooLong)
  course_title?: string;

  @Column({ says: 'the course’s first day', synonyms: ['start', 'start_date', 'begins', 'from'] })
  @IsOptional()
  @IsDate()
  @IsOfOurTime()
  starts_on?: string;

  @Column({ says: 'the course’s last day', synonyms: ['end', 'end_date', 'finishes', 'to'] })
  @IsOptional()
  @IsDate()
  @IsOfOurTime()
  ends_on?: string;

  @Column({ says: 'the unit it stands in', synonyms: ['week', 'section', 'topic', 'chapter', 'lesson'] })
  @IsOptional()
  @MaxLength(TEXT, tooLong)
  unit?: string;

  @Column(ITEM)
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  item_id!: string;

  @Column({
    says: 'what the item is called',
    synonyms: ['title', 'item_title', 'name', 'activity', 'activity_name', 'resource', 'content'],
  })
  @IsNotEmpty(required)
  @MaxLength(TEXT, tooLong)
  item!: string;

  @Column({ says: ITEM_KINDS.join(', '), synonyms: ['type', 'item_type', 'activity_type', 'resource_type'] })
  @IsNotEmpty(required)
  @IsIn(ITEM_KINDS, oneOf)
  kind!: string;

  @Column({ says: 'yes or no', synonyms: ['mandatory', 'compulsory', 'needed'] })
  @IsOptional()
  @IsIn(['yes', 'no'], oneOf)
  required?: string;

  @Column({ says: 'from when it can be opened', synonyms: ['opens', 'available_from', 'visible_from', 'open_date'] })
  @IsOptional()
  @IsInstant()
  @IsOfOurTime()
  opens_at?: string;

  @Column({ says: 'when it is due', synonyms: ['due', 'due_date', 'deadline', 'closes'] })
  @IsOptional()
  @IsInstant()
  @IsOfOurTime()
  due_at?: string;

  @Column({ says: 'points to be had', synonyms: ['max_points', 'marks', 'maximum', 'max_score', 'out_of'] })
  @IsOptional()
  @IsNumeral()
  @NotNegative()
  points?: string;

  @Column({ says: 'the category its marks count in', synonyms: ['grade_category', 'part'] })
  @IsOptional()
  @MaxLength(ID, tooLong)
  category?: string;

  @Column({ says: 'the category’s weight', synonyms: ['category_weight', 'share'] })
  @IsOptional()
  @IsNumeral()
  @NotNegative()
  weight?: string;

  @Column({ says: 'when it was last changed', synonyms: ['modified', 'updated', 'last_modified', 'changed'] })
  @IsOptional()
  @IsInstant()
  @IsOfOurTime()
  changed_at?: string;

  @Column({ says: 'what makes it done, joined by semicolons' })
  @IsOptional()
  @IsDoneWhen()
  done_when?: string;
}
