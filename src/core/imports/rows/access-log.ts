import { CourseCode, ITEM, LEARNER, NeededId, NeededText, NeededTime, OptionalId, OptionalText } from './shared';

/** One event. */
export class AccessLogRow {
  @NeededTime({
    says: 'when it happened',
    synonyms: ['timestamp', 'date', 'datetime', 'date_time', 'when', 'event_time', 'date_and_time', 'logged_at', 'at'],
  })
  time!: string;

  @NeededId({ ...LEARNER, says: 'who did it: a learner’s id, or a member of staff’s' })
  learner_id!: string;

  @CourseCode()
  course!: string;

  @OptionalId({ ...ITEM, says: 'the item’s id; empty for the course itself' })
  item_id?: string;

  @NeededText({
    says: 'what they did, in a word',
    synonyms: ['event', 'event_name', 'verb', 'activity', 'operation', 'what', 'description'],
  })
  action!: string;

  @OptionalText(
    {
      says: 'where from: a network address',
      synonyms: ['ip', 'ip_address', 'origin', 'host'],
      looks: /^(\d{1,3}\.){3}\d{1,3}$|^[\da-f]{0,4}(:[\da-f]{0,4}){2,}$/i,
    },
    200,
  )
  address?: string;

  @OptionalId({
    says: 'the event’s own id, where the source has one',
    synonyms: ['id', 'log_id', 'uuid', 'record_id', 'entry'],
  })
  event_id?: string;
}
