/** What is said of sessions on their way into the timetable. */
import { ArrayNotEmpty, IsArray, IsIn, IsNotEmpty, IsOptional, Matches, MaxLength } from 'class-validator';
import { SESSION_MODES, weeklyRule, type SessionMode } from '@/core/sessions/timetable';
import { AsDay, AsMinuteOfDay, InvalidInput } from '../request/input';

const missing = { message: 'is missing' };
const long = { message: 'is too long' };
const oneLine = { message: 'holds a line break or another control character' };
/** Nothing that cannot be seen on one line. */
const ONE_LINE = /^[^\p{Cc}\u2028\u2029]*$/u;
/** Days of the week as a form names them. */
const WEEKDAY_NAMES = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;

/** What every session has. */
export class SessionFields {
  @IsNotEmpty(missing) @MaxLength(200, long) @Matches(ONE_LINE, oneLine) title!: string;
  @IsNotEmpty(missing) @AsMinuteOfDay() starts!: number;
  @IsNotEmpty(missing) @AsMinuteOfDay() ends!: number;
  @IsIn(SESSION_MODES, { message: `is not one of ${SESSION_MODES.join(', ')}` }) mode!: SessionMode;
  @IsOptional() @MaxLength(1000, long) @Matches(ONE_LINE, oneLine) place?: string;
  @IsOptional() @Matches(/^\d{1,15}$/, { message: 'is not a member of staff' }) instructor?: string;
}

export class NewSessionInput extends SessionFields {
  /** `DRY`, or `DRY/A` for one group. */
  @IsNotEmpty(missing) @MaxLength(400, long) part!: string;
  @IsNotEmpty(missing) @AsDay() from!: number;
  @IsIn(['once', 'weekly'], { message: 'is not one of once, weekly' }) repeat!: 'once' | 'weekly';
  /** The last day of a weekly series. */
  @IsOptional() @AsDay() until?: number;
  /** The days of the week of a series. */
  @IsOptional()
  @IsArray({ message: 'is not a list of days' })
  @ArrayNotEmpty({ message: 'is missing: on which days?' })
  @IsIn(WEEKDAY_NAMES, { each: true, message: 'holds what is no day of the week' })
  days?: string[];
}

const REACHES = ['this', 'later', 'all'] as const;
type Reaches = (typeof REACHES)[number];

export class ChangeSessionInput extends SessionFields {
  @IsNotEmpty(missing) @AsDay() from!: number;
  @IsIn(REACHES, { message: `is not one of ${REACHES.join(', ')}` }) reaches!: Reaches;
  /** The version that was seen when the form was opened: another's change since is not overwritten unseen. */
  @IsOptional() @Matches(/^\d{1,9}$/, { message: 'is not a version' }) seen?: string;
}

export class CancelInput {
  @IsNotEmpty({ message: 'is missing: why is it cancelled?' })
  @MaxLength(200, long)
  @Matches(ONE_LINE, oneLine)
  reason!: string;
}

/** Start by the clock, and minutes: one that ends before it begins goes on past midnight. */
export function timeOf({ starts: from, ends: to }: SessionFields): { minute: number; minutes: number } {
  if (from === to) throw new InvalidInput([{ field: 'ends', message: 'is when it begins' }]);
  return { minute: from, minutes: to > from ? to - from : to + 1440 - from };
}

/** The rule of a weekly series. @throws InvalidInput */
export function ruleOf({ days, from, until }: NewSessionInput, minute: number): string {
  if (!days) throw new InvalidInput([{ field: 'days', message: 'is missing: on which days?' }]);
  if (until === undefined) throw new InvalidInput([{ field: 'until', message: 'is missing: until when?' }]);
  if (until < from) throw new InvalidInput([{ field: 'until', message: 'lies before the first day' }]);
  const numbers = days.map((name) => WEEKDAY_NAMES.indexOf(name as (typeof WEEKDAY_NAMES)[number]));
  return weeklyRule({ days: numbers, from, until, minuteOfDay: minute });
}
