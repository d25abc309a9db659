/** Columns of one session that a learner was expected in or came to. */
import { minutes } from '../../request/values';
import type { RecordedSession } from '../../sessions/records';
import type { ReportColumn, ReportRow } from '../row';

const ofSession =
  <T>(of: (session: RecordedSession) => T) =>
  ({ session }: ReportRow): T | null =>
    session === null ? null : of(session);

const whole = (ms: number | null) => (ms === null ? null : minutes(ms));

export const SESSION_COLUMNS = [
  {
    name: 'session_id',
    title: 'Session id',
    kind: 'text',
    says: 'The session’s id at the source.',
    per: 'session',
    leaves: true,
    of: ofSession(({ session_id }) => session_id),
  },
  {
    name: 'session',
    title: 'Session',
    kind: 'text',
    says: 'The session’s title.',
    per: 'session',
    leaves: true,
    of: ofSession(({ title }) => title),
  },
  {
    name: 'starts_at',
    title: 'Starts',
    kind: 'instant',
    says: 'When the session begins.',
    per: 'session',
    leaves: true,
    of: ofSession(({ starts_at }) => starts_at),
  },
  {
    name: 'ends_at',
    title: 'Ends',
    kind: 'instant',
    says: 'When the session ends.',
    per: 'session',
    leaves: true,
    of: ofSession(({ ends_at }) => ends_at),
  },
  {
    name: 'is_cancelled',
    title: 'Cancelled',
    kind: 'flag',
    says: 'Did it not take place?',
    per: 'session',
    leaves: true,
    of: ofSession(({ cancelled }) => cancelled === 1),
  },
  {
    name: 'mark',
    title: 'Mark',
    kind: 'text',
    says: 'The mark of the roll; empty where none was given.',
    per: 'session',
    leaves: true,
    of: ofSession(({ label }) => label),
  },
  {
    name: 'outcome',
    title: 'Attendance',
    kind: 'text',
    says: 'Attended, missed or excused: by the mark, else by check-in or presence.',
    per: 'session',
    leaves: true,
    of: ofSession(({ outcome }) => outcome),
  },
  {
    name: 'remark',
    title: 'Remark',
    kind: 'text',
    says: 'What staff wrote beside the mark.',
    per: 'session',
    leaves: false,
    of: ofSession(({ remark }) => remark || null),
  },
  {
    name: 'session_minutes',
    title: 'There for',
    kind: 'minutes',
    says: 'Minutes in the session, two devices at once counted once.',
    per: 'session',
    leaves: true,
    of: ofSession(({ ms }) => whole(ms)),
  },
  {
    name: 'session_share',
    title: 'Share of the session',
    kind: 'share',
    says: 'The same of the session’s length.',
    per: 'session',
    leaves: true,
    of: ofSession(({ ms, starts_at, ends_at }) =>
      ms === null || ends_at <= starts_at ? null : ms / (ends_at - starts_at),
    ),
  },
  {
    name: 'first_in',
    title: 'First in',
    kind: 'instant',
    says: 'When they came first.',
    per: 'session',
    leaves: true,
    of: ofSession(({ first_in }) => first_in),
  },
  {
    name: 'last_out',
    title: 'Last out',
    kind: 'instant',
    says: 'When they left for good.',
    per: 'session',
    leaves: true,
    of: ofSession(({ last_out }) => last_out),
  },
  {
    name: 'reconnects',
    title: 'Reconnects',
    kind: 'count',
    says: 'How often they came back in.',
    per: 'session',
    leaves: false,
    of: ofSession(({ reconnects }) => reconnects),
  },
] as const satisfies readonly ReportColumn[];
