import Link from 'next/link';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { sayCount, sayInstant, sayLength, sayTime } from '@/core/time/words';
import type { OpenSession } from '@/server/sessions/session';
import { formOfSession } from '@/server/sessions/planning-form';
import { ChangeSession, SessionActions } from '../session-forms';
import { linkTo } from '../../../_list/list-link';
import { Tabs } from '../../../_frame/tabs';
import classes from '../sessions.module.css';

interface Props {
  opened: OpenSession;
  instructors: { value: string; label: string }[];
  now: number;
  zone: string;
}

/** What a session is, when and where, and what one does with it. */
export function SessionHead({ opened, instructors, now, zone }: Props) {
  const { session, mayPlan, mayTake, people } = opened;
  const path = `/sessions/${encodeURIComponent(session.session_id)}`;
  const expected = people.filter(({ is_guest }) => is_guest === 0).length;
  const isLink = /^https?:\/\//i.test(session.place);
  const tabs: [string, string][] = [
    [path, 'Presence'],
    ...(mayTake && !session.cancelled
      ? ([
          [`${path}/roll`, 'Roll'],
          [`${path}/check-in`, 'Check-in'],
          [`${path}/record`, 'Record of the meeting'],
        ] as [string, string][])
      : []),
  ];
  return (
    <>
      <div className={classes.head}>
        <h1>
          <bdi>{session.title}</bdi>
        </h1>
        <span>
          <Link href={linkTo('/sessions', { in: `course:${session.course}`, week: dateOfDay(session.day) })}>
            {session.course_title}
          </Link>
          {session.group && ` · ${session.group}`}
        </span>
        <span>
          {sayInstant(session.starts_at, zone, now)} to{' '}
          {dayOf(session.ends_at - 1, zone) === session.day
            ? sayTime(session.ends_at, zone)
            : sayInstant(session.ends_at, zone, now)}
          <span className={classes.soft}> · {sayLength(session.ends_at - session.starts_at)}</span>
        </span>
        <span className={classes.soft}>
          {isLink ? (
            <a href={session.place} rel="noreferrer">
              online
            </a>
          ) : (
            session.place || (session.mode === 'online' ? 'online' : 'in person')
          )}
          {session.instructor && ` · given by ${session.instructor}`} · {sayCount(expected, 'learner')} expected
        </span>
        {mayPlan && (
          <span className={classes.push}>
            <ChangeSession
              key={session.changed_at}
              sessionId={session.session_id}
              form={{ ...formOfSession(session, zone), from: dateOfDay(session.day) }}
              instructors={instructors}
              inSeries={session.series_id !== null}
            />
            <SessionActions ids={[session.session_id]} areOff={session.cancelled === 1} after="/sessions" />
          </span>
        )}
      </div>
      {session.cancelled === 1 && (
        <p role="status" className={classes.nag}>
          Cancelled{session.reason && `: ${session.reason}`}. It counts for nobody.
        </p>
      )}
      <Tabs label="Session" tabs={tabs} />
    </>
  );
}
