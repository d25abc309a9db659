/** The list of sessions: the timetable as a program, a file and the page read it. */
import { IsIn, IsOptional } from 'class-validator';
import { countWithoutRoll, findCountedSessions, type CountedSession } from '@/data/sessions/sessions';
import type { Viewer } from '@/data/scope';
import { sayInstant, sayTime } from '@/core/time/words';
import { isoOrNull } from '../request/values';
import { readInput, type Values } from '../request/input';
import { Filter, type At, type List } from '../request/list';
import { limitOf, placeOf, writeCursor } from '../request/list-query';
import { PeriodQuery, periodOf } from '../request/period';
import { openView } from '../request/view';
import { mayPlanAny } from './rights';
import type { Runtime } from '../runtime';

class SessionsQuery extends PeriodQuery {
  @Filter({
    help: '`to_take`: those held whose roll nobody has taken',
    says: () => 'Roll not taken',
    control: { as: 'press', label: 'Roll not taken', value: 'to_take' },
  })
  @IsOptional()
  @IsIn(['to_take'], { message: 'is not to_take' })
  roll?: 'to_take';

  @IsOptional() @IsIn(['starts_at', '-starts_at'], { message: 'is not one of starts_at, -starts_at' }) sort?: string;
}

/** Sessions in time order. @throws InvalidInput, NotFound */
export async function sessions(runtime: Runtime, viewer: Viewer, values: Values) {
  const query = readInput(SessionsQuery, values, runtime.zone);
  const { course, group, organisation, caseload } = query;
  const view = await openView(runtime, viewer, { course, group, organisation, caseload });
  const period = await periodOf(runtime, view, query);
  const { rows, total, goesOn } = await findCountedSessions(runtime.db, view, {
    ...period,
    withoutRollAt: query.roll === undefined ? undefined : view.now,
    newestFirst: query.sort === '-starts_at',
    limit: limitOf(query),
    after: placeOf(query),
  });
  const last = rows.at(-1);
  const next = goesOn && last ? writeCursor([last.starts_at, last.id]) : null;
  return { query, rows, total, next, now: view.now, zone: runtime.zone };
}

/** How far back sessions without a roll are nagged about, in ms: a term. */
const NAGGED = 120 * 24 * 3_600_000;

/** How many sessions whose roll is the viewer's to take, held within a term, still have none. */
export async function rollsToTake({ db, clock }: Pick<Runtime, 'db' | 'clock'>, viewer: Viewer): Promise<number> {
  const now = clock.now();
  return mayPlanAny(viewer) ? countWithoutRoll(db, viewer, now - NAGGED, now) : 0;
}

/** How it stands with a session's roll, in words. */
export function sayRoll(row: CountedSession, now: number): string {
  if (row.cancelled) return row.reason ? `cancelled: ${row.reason}` : 'cancelled';
  if (row.roll_at !== null) return `${row.present} of ${row.expected} there`;
  if (row.starts_at > now) return `${row.expected} expected`;
  const seen = row.has_presence ? ` · ${row.present} of ${row.expected} seen` : '';
  return row.ends_at > now ? `on now${seen}` : `roll not taken${seen}`;
}

/** A session as the page shows it. */
export interface SessionLine {
  sessionId: string;
  when: string;
  title: string;
  of: string;
  where: string;
  roll: string;
  /** Has somebody still to take its roll? */
  waits: boolean;
  isOff: boolean;
}

function sessionLine(row: CountedSession, { now, zone }: At): SessionLine {
  return {
    sessionId: row.session_id,
    when: `${sayInstant(row.starts_at, zone, now)}–${sayTime(row.ends_at, zone)}`,
    title: row.title,
    of: [row.course, row.group].filter(Boolean).join(' · '),
    where: row.mode === 'online' ? 'online' : row.place || 'in person',
    roll: sayRoll(row, now),
    waits: row.roll_at === null && row.ends_at <= now && row.cancelled === 0,
    isOff: row.cancelled === 1,
  };
}

export const SESSIONS = {
  name: 'sessions',
  path: '/sessions/list',
  query: SessionsQuery,
  columns: {
    id: { title: 'Session', isKey: true, figures: { session_id: (row) => row.session_id } },
    of: { title: 'Course', figures: { course: (row) => row.course, group: (row) => row.group } },
    title: { title: 'Title', figures: { title: (row) => row.title } },
    time: {
      title: 'Time',
      sort: 'starts_at',
      figures: { starts_at: (row) => isoOrNull(row.starts_at), ends_at: (row) => isoOrNull(row.ends_at) },
    },
    mode: { title: 'How', figures: { mode: (row) => row.mode } },
    held: { title: 'Held', figures: { cancelled: (row) => row.cancelled === 1 } },
    roll: {
      title: 'Roll',
      figures: {
        roll_taken: (row) => row.roll_at !== null,
        expected: (row) => row.expected,
        present: (row) => row.present,
      },
    },
    more: {
      title: 'Where',
      figures: { place: (row) => row.place, instructor: (row) => row.instructor, reason: (row) => row.reason },
    },
  },
  line: sessionLine,
  read: sessions,
} satisfies List<CountedSession>;
