import { SESSION_MODES } from '@/core/sessions/timetable';
import type { Rule } from '../validators';
import {
  CourseCode,
  ITEM,
  LEARNER,
  NeededId,
  NeededText,
  NeededTime,
  OptionalId,
  OptionalText,
  OptionalTime,
  OptionalWord,
} from './shared';

const SESSION = {
  says: 'the session’s id',
  synonyms: ['id', 'session', 'meeting_id', 'meeting', 'class_id', 'event_id', 'uid'],
};

/** Nothing that cannot be seen on one line: a calendar writes it as it stands. */
const ON_ONE_LINE: Rule = {
  name: 'isOnOneLine',
  test: (value) => /^[^\p{Cc}\u2028\u2029]*$/u.test(String(value)),
  says: 'holds a line break or another control character',
};

/** One session of the timetable. */
export class SessionRow {
  @CourseCode()
  course!: string;

  @OptionalText({ says: 'the group; empty for all of the course', synonyms: ['group_name', 'section', 'cohort'] }, 200)
  group?: string;

  @NeededId(SESSION)
  session_id!: string;

  @NeededText(
    { says: 'what it is called', synonyms: ['name', 'session_title', 'subject', 'topic', 'summary'] },
    ON_ONE_LINE,
  )
  title!: string;

  @NeededTime({ says: 'when it begins', synonyms: ['start', 'start_time', 'begins', 'from', 'begins_at', 'starts'] })
  starts_at!: string;

  @NeededTime({ says: 'when it ends', synonyms: ['end', 'end_time', 'finishes', 'to', 'until', 'ends'] })
  ends_at!: string;

  @OptionalWord({ says: 'online or in_person', synonyms: ['type', 'kind', 'format', 'delivery'] }, SESSION_MODES)
  mode?: string;

  @OptionalText(
    { says: 'where: a room, or a link', synonyms: ['location', 'room', 'link', 'url', 'venue', 'join_url'] },
    1000,
    ON_ONE_LINE,
  )
  place?: string;

  @OptionalWord({ says: 'yes where it is cancelled', synonyms: ['canceled', 'not_held'] }, ['yes', 'no'])
  cancelled?: string;

  @OptionalId({ ...ITEM, says: 'the outline’s item that it is; found by its id or title where this is left out' })
  item_id?: string;
}

/** From when to when one device was in a session. */
export class PresenceRow {
  @OptionalId({ ...SESSION, says: 'the session’s id; left out where the whole file is one session’s' })
  session_id?: string;

  @NeededText({
    says: 'who: a name as the meeting has it, or a learner’s id',
    synonyms: [
      'name',
      'participant',
      'participant_name',
      'attendee',
      'display_name',
      'user_name',
      'user',
      'learner_id',
      'who',
    ],
  })
  person!: string;

  @OptionalText(
    {
      says: 'their e-mail address, where the meeting has it',
      synonyms: ['e_mail', 'mail', 'email_address', 'user_email'],
    },
    320,
  )
  email?: string;

  @NeededTime({
    says: 'when they came in',
    synonyms: ['join_time', 'joined', 'joined_at', 'join', 'in', 'entered_at', 'start', 'from'],
  })
  entered!: string;

  @OptionalTime({
    says: 'when they went; empty where nobody noted it',
    synonyms: ['leave_time', 'left_at', 'leave', 'out', 'exited', 'end', 'to'],
  })
  left?: string;
}

/** One learner's mark in one session's roll. */
export class MarkRow {
  @NeededId(SESSION)
  session_id!: string;

  @NeededId(LEARNER)
  learner_id!: string;

  @NeededText({ says: 'the mark’s word, such as present', synonyms: ['status', 'attendance', 'code', 'state'] })
  mark!: string;

  @OptionalText({ says: 'a remark', synonyms: ['note', 'comment', 'remarks', 'reason'] }, 1000)
  remark?: string;
}
