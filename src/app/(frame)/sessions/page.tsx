import type { Metadata } from 'next';
import Link from 'next/link';
import { clashes } from '@/core/sessions/timetable';
import { sayCount, sayDay, sayTime, plural } from '@/core/time/words';
import { dateOfDay, dayFromDate, dayOf, startOfDay, weekday } from '@/core/time/zone';
import type { CountedSession } from '@/data/sessions/sessions';
import { breaksBetween, findCountedSessions } from '@/server/sessions/reads';
import { rollsToTake, sayRoll } from '@/server/sessions/sessions-list';
import { planningChoices } from '@/server/sessions/planning-form';
import { linkTo } from '../../_list/list-link';
import { openFrame, type SearchParams } from '../../_frame/page-context';
import { SessionTabs } from '../../_frame/sections';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';
import { PlanSessions } from './session-forms';
import classes from './sessions.module.css';

export const metadata: Metadata = { title: 'Sessions' };

/** Sessions of a week at most: more are seen in the list, or in a part. */
const MOST = 300;

export default async function WeekPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, view, params, segmentKey } = frame;
  const { clock, zone } = runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const asked = dayFromDate(params.week ?? '') ?? today;
  const monday = asked - weekday(asked);
  const [{ rows, total }, plan, toTake, breaks] = await Promise.all([
    findCountedSessions(runtime, view, {
      from: startOfDay(monday, zone),
      to: startOfDay(monday + 7, zone),
      limit: MOST,
    }),
    planningChoices(runtime, viewer),
    rollsToTake(runtime, viewer),
    breaksBetween(runtime, view, monday, monday + 6),
  ]);
  const inTheWay = clashes(rows);
  const week = (day: number) =>
    linkTo('/sessions', { in: segmentKey, week: day === today - weekday(today) ? null : dateOfDay(day) });
  const days = Array.from({ length: 7 }, (_, place) => monday + place);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionTabs />
        <div className={classes.head}>
          <h1>
            {sayDay(monday, today)} to {sayDay(monday + 6, today)}
          </h1>
          <span className={classes.soft}>
            {total > MOST ? `the first ${MOST} of ${total}` : sayCount(total, 'session')}
          </span>
          <nav aria-label="Weeks">
            <Link href={week(monday - 7)}>Week before</Link>
            {' · '}
            <Link href={week(today - weekday(today))}>This week</Link>
            {' · '}
            <Link href={week(monday + 7)}>Week after</Link>
          </nav>
          <span className={classes.push}>
            <PlanSessions
              {...plan}
              day={dateOfDay(Math.max(today, monday))}
              part={segmentKey?.slice(segmentKey.indexOf(':') + 1) ?? null}
            />
          </span>
        </div>
        {toTake > 0 && (
          <p className={classes.nag}>
            <Link href={linkTo('/sessions/list', { roll: 'to_take', sort: '-starts_at' })}>
              {toTake === 1 ? 'The roll of 1 session was' : `The rolls of ${toTake} sessions were`} never taken
            </Link>
            : until somebody does, {plural(toTake, 'it counts', 'they count')} for nobody.
          </p>
        )}
        {total === 0 && (
          <p>
            No session in this week. {plan.parts.length > 0 ? 'Add one, or a weekly series; ' : ''}a lead brings in a
            whole timetable under Set-up, from a file or a calendar.
          </p>
        )}
        <div className={classes.week}>
          {days.map((day) => {
            const sessionsOfDay = rows.filter((row) => row.day === day);
            const resting = breaks.filter(({ from_day, to_day }) => from_day <= day && day <= to_day);
            return (
              <section
                key={day}
                className={classes.day}
                aria-label={sayDay(day, today)}
                data-weekend={weekday(day) >= 5 || undefined}
                data-today={day === today || undefined}
                data-empty={(sessionsOfDay.length === 0 && resting.length === 0) || undefined}
              >
                <h2>{sayDay(day)}</h2>
                {resting.map(({ id, course, reason }) => (
                  <p key={id} className={classes.resting}>
                    {course}: {reason}
                  </p>
                ))}
                {sessionsOfDay.map((row) => (
                  <SessionCard key={row.id} row={row} now={now} zone={zone} clash={inTheWay.get(row.id)} />
                ))}
              </section>
            );
          })}
        </div>
      </div>
    </>
  );
}

interface CardProps {
  row: CountedSession;
  now: number;
  zone: string;
  clash?: { other: CountedSession; of: 'group' | 'instructor' };
}

/** One session of a week: when, what, whose, and how it stands with its roll. */
function SessionCard({ row, now, zone, clash }: CardProps) {
  const waits = row.roll_at === null && row.ends_at <= now && row.cancelled === 0;
  return (
    <Link
      href={`/sessions/${encodeURIComponent(row.session_id)}`}
      className={classes.session}
      data-waits={waits || undefined}
      data-off={row.cancelled === 1 || undefined}
      data-now={(row.starts_at <= now && row.ends_at > now && row.cancelled === 0) || undefined}
    >
      {sayTime(row.starts_at, zone)}–{sayTime(row.ends_at, zone)}
      <strong>
        {row.course}
        {row.group && ` · ${row.group}`}
      </strong>
      <bdi>{row.title}</bdi>
      {row.mode === 'in_person' && row.place && <div className={classes.soft}>{row.place}</div>}
      <div className={waits ? classes.wait : classes.soft}>{sayRoll(row, now)}</div>
      {clash && (
        <div className={classes.clash}>
          In the way: {clash.other.course} {clash.other.group} {sayTime(clash.other.starts_at, zone)}, the same{' '}
          {clash.of}
        </div>
      )}
    </Link>
  );
}
