import { IsNotEmpty, IsOptional, MaxLength } from 'class-validator';
import { Column } from '../column';
import { HasNoSlash, IsInstant, IsOfOurTime, IsPlainlyVisible } from '../validators';
import { COURSE, ID, ITEM, LEARNER, required, tooLong } from './shared';

/** One event. */
export class AccessLogRow {
  @Column({
    says: 'when it happened',
    synonyms: ['timestamp', 'date', 'datetime', 'date_time', 'when', 'event_time', 'date_and_time', 'logged_at', 'at'],
  })
  @IsNotEmpty(required)
  @IsInstant()
  @IsOfOurTime()
  time!: string;

  @Column({ ...LEARNER, says: 'who did it: a learner’s id, or a member of staff’s' })
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  learner_id!: string;

  @Column(COURSE)
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  @HasNoSlash()
  course!: string;

  @Column({ ...ITEM, says: 'the item’s id; empty for the course itself' })
  @IsOptional()
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  item_id?: string;

  @Column({
    says: 'what they did, in a word',
    synonyms: ['event', 'event_name', 'verb', 'activity', 'operation', 'what', 'description'],
  })
  @IsNotEmpty(required)
  @MaxLength(ID, tooLong)
  action!: string;

  @Column({
    says: 'where from: a network address',
    synonyms: ['ip', 'ip_address', 'origin', 'host'],
    looks: /^(\d{1,3}\.){3}\d{1,3}$|^[\da-f]{0,4}(:[\da-f]{0,4}){2,}$/i,
  })
  @IsOptional()
  @MaxLength(ID, tooLong)
  address?: string;

  @Column({
    says: 'the event’s own id, where the source has one',
    synonyms: ['id', 'log_id', 'uuid', 'record_id', 'entry'],
  })
  @IsOptional()
  @MaxLength(ID, tooLong)
  @IsPlainlyVisible()
  event_id?: string;
}
