import { TableTd, TableTr } from '@mantine/core';
import Link from 'next/link';
import { isInNow } from '@/core/sessions/record';
import { sayCount, sayInstant, sayTime } from '@/core/time/words';
import { MINUTE } from '@/core/time/zone';
import { learnerSessions, type RecordedSession } from '@/server/sessions/records';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../_list/list-link';
import type { FrameContext } from '../../../_frame/page-context';
import classes from './learner.module.css';

interface Props {
  frame: FrameContext;
  learnerId: number;
  courses: { courseId: number; course: string; title: string }[];
  path: string;
  kept: Record<string, string | null>;
}

/** Sessions shown until somebody asks for all of them. */
const FEW = 8;

/** A learner's own record: what their marks come to in each course, and each session, newest first. */
export async function Sessions({ frame, learnerId, courses, path, kept }: Props) {
  const { runtime, view, params } = frame;
  const { sessions, byCourse } = await learnerSessions(runtime, view, learnerId);
  if (sessions.length === 0) return null;
  const shown = params.sessions === 'all' ? sessions : sessions.slice(0, FEW);
  return (
    <section className={classes.section} id="sessions">
      <h2>Sessions</h2>
      {courses.map(({ courseId, course, title }) => {
        const sessionsOfCourse = byCourse.get(courseId);
        if (!sessionsOfCourse || sessionsOfCourse.rate === null) return null;
        return (
          <p key={courseId}>
            <Link href={linkTo('/sessions/attendance', { course })}>{title}</Link>:{' '}
            <strong>{Math.round(100 * sessionsOfCourse.rate)} %</strong>, {sessionsOfCourse.credit} of{' '}
            {sayCount(sessionsOfCourse.counted, 'session')} that count
            {sessionsOfCourse.missedInARow > 0 &&
              `, the last ${sessionsOfCourse.missedInARow === 1 ? 'one' : sessionsOfCourse.missedInARow} missed`}
            {sessionsOfCourse.trend !== null && Math.round(100 * sessionsOfCourse.trend) !== 0 && (
              <span className={classes.soft}>
                {' '}
                · the last four {sessionsOfCourse.trend >= 0 ? '+' : '−'}
                {Math.round(Math.abs(100 * sessionsOfCourse.trend))} points against those before
              </span>
            )}
          </p>
        );
      })}
      <PlainTable label="Sessions" heads={['When', 'Session', 'Mark', 'There', 'In', 'Out', 'Rejoins', 'Remark']}>
        {shown.map((one) => (
          <SessionRow key={`${one.session_id}`} one={one} zone={runtime.zone} now={view.now} />
        ))}
      </PlainTable>
      {shown.length < sessions.length && (
        <p>
          <Link scroll={false} href={linkTo(path, { ...kept, sessions: 'all' })}>
            All {sessions.length} sessions
          </Link>
        </p>
      )}
    </section>
  );
}

function SessionRow({ one, zone, now }: { one: RecordedSession; zone: string; now: number }) {
  const length = Math.round((one.ends_at - one.starts_at) / MINUTE);
  const inNow = isInNow(one, now);
  return (
    <TableTr>
      <TableTd>{sayInstant(one.starts_at, zone, now)}</TableTd>
      <TableTd>
        <Link href={`/sessions/${encodeURIComponent(one.session_id)}`}>
          <bdi>{one.title}</bdi>
        </Link>{' '}
        <span className={classes.soft}>{one.course}</span>
      </TableTd>
      <TableTd>
        {one.cancelled === 1
          ? 'cancelled'
          : (one.label ?? <span className={classes.soft}>{one.roll_at === null ? 'no roll' : 'no mark'}</span>)}
      </TableTd>
      <TableTd>{inNow ? 'in now' : one.ms === null ? '' : `${Math.round(one.ms / MINUTE)} of ${length} min`}</TableTd>
      <TableTd>{one.first_in === null ? '' : sayTime(one.first_in, zone)}</TableTd>
      <TableTd>{one.last_out === null || inNow ? '' : sayTime(one.last_out, zone)}</TableTd>
      <TableTd>{one.reconnects || ''}</TableTd>
      <TableTd>
        <bdi>{one.remark}</bdi>
      </TableTd>
    </TableTr>
  );
}
