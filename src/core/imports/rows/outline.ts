import { ITEM_KINDS, STAGES } from '@/core/courses/item-kinds';
import { Optional } from '../column';
import { IsDoneWhen, IsPercent } from '../validators';
import {
  CourseCode,
  ITEM,
  NeededId,
  NeededText,
  NeededWord,
  OptionalDate,
  OptionalNumber,
  OptionalText,
  OptionalTime,
  OptionalWord,
} from './shared';

/** One course item. */
export class OutlineRow {
  @CourseCode()
  course!: string;

  @OptionalText({ says: 'what the course is called', synonyms: ['course_name', 'title_of_course', 'course_full_name'] })
  course_title?: string;

  @OptionalDate({ says: 'the course’s first day', synonyms: ['start', 'start_date', 'begins', 'from'] })
  starts_on?: string;

  @OptionalDate({ says: 'the course’s last day', synonyms: ['end', 'end_date', 'finishes', 'to'] })
  ends_on?: string;

  @OptionalText({ says: 'the unit it stands in', synonyms: ['week', 'section', 'topic', 'chapter', 'lesson'] })
  unit?: string;

  @NeededId(ITEM)
  item_id!: string;

  @NeededText({
    says: 'what the item is called',
    synonyms: ['title', 'item_title', 'name', 'activity', 'activity_name', 'resource', 'content'],
  })
  item!: string;

  @NeededWord(
    { says: ITEM_KINDS.join(', '), synonyms: ['type', 'item_type', 'activity_type', 'resource_type'] },
    ITEM_KINDS,
  )
  kind!: string;

  @OptionalWord({ says: 'yes or no', synonyms: ['mandatory', 'compulsory', 'needed'] }, ['yes', 'no'])
  required?: string;

  @OptionalTime({
    says: 'from when it can be opened',
    synonyms: ['opens', 'available_from', 'visible_from', 'open_date'],
  })
  opens_at?: string;

  @OptionalTime({ says: 'when it is due', synonyms: ['due', 'due_date', 'deadline', 'closes'] })
  due_at?: string;

  @OptionalNumber({ says: 'points to be had', synonyms: ['max_points', 'marks', 'maximum', 'max_score', 'out_of'] })
  points?: string;

  @OptionalText({ says: 'the category its marks count in', synonyms: ['grade_category', 'part'] }, 200)
  category?: string;

  @OptionalNumber({ says: 'the category’s weight', synonyms: ['category_weight', 'share'] })
  weight?: string;

  @OptionalTime({ says: 'when it was last changed', synonyms: ['modified', 'updated', 'last_modified', 'changed'] })
  changed_at?: string;

  @Optional({ says: 'what makes it done, joined by semicolons' }, IsDoneWhen.rule)
  done_when?: string;

  @OptionalText(
    { says: 'where the item lives on its platform', synonyms: ['link_url', 'address', 'href', 'web_address'] },
    1000,
  )
  url?: string;

  @OptionalWord({ says: 'yes where it must be done before the course’s end', synonyms: ['must_be_done'] }, [
    'yes',
    'no',
  ])
  must?: string;

  @OptionalWord({ says: 'before or after: a unit’s check at its beginning or end', synonyms: ['check_stage'] }, STAGES)
  stage?: string;

  @Optional(
    { says: 'the course’s pass mark, in per cent', synonyms: ['pass', 'passing_grade', 'pass_grade'] },
    IsPercent.rule,
  )
  pass_mark?: string;
}
