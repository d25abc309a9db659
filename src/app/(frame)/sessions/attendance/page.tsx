import type { Metadata } from 'next';
import Link from 'next/link';
import { dayOf } from '@/core/time/zone';
import { sayCount } from '@/core/time/words';
import { packRows } from '@/core/rows';
import { namesOfKind } from '@/server/courses/segments';
import { segmentChoices } from '@/server/courses/reads';
import { gridHeads } from '@/server/request/grid';
import { askedOf, controlsOf, listParams, sentencesOf, type Params } from '@/server/request/list';
import { sayPeriod } from '@/server/request/period';
import { ATTENDANCE, attendance } from '@/server/sessions/attendance-list';
import { findSessions } from '@/server/sessions/reads';
import { allMarks } from '@/server/sessions/marks';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { SessionTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../sessions.module.css';
import { AttendanceGrid } from './attendance-grid';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Attendance' };

const FIRST = '100';
/** Sessions beside each other at most: a year of two a week for a course's groups. */
const MOST_SESSIONS = 400;
/** More courses than these are found in the bar. */
const MOST_COURSES = 8;

/** One course to begin with, until somebody asks for another, or for all: side by side their sessions are too many to read. */
function openingParams(params: Params, courses: readonly { value: string }[]): Params {
  const isAsked = ['in', 'course', 'group', 'organisation', 'courses', 'missed'].some((name) => params[name]);
  return isAsked || courses.length === 0 ? params : { ...params, course: courses[0].value };
}

export default async function AttendancePage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, ATTENDANCE);
  const { runtime, viewer, view } = frame;
  const { zone } = runtime;
  const choices = await segmentChoices(runtime, viewer);
  const courses = namesOfKind(choices, 'course');
  const params = listParams(ATTENDANCE, openingParams(frame.params, courses));
  const [list, marks] = await Promise.all([
    orNotFound(attendance(runtime, viewer, { ...askedOf(ATTENDANCE, params), limit: FIRST })),
    allMarks(runtime),
  ]);
  const sessions = await findSessions(runtime, list.view, {
    ...list.period,
    to: Math.min(list.period.to ?? Number.MAX_SAFE_INTEGER, view.now),
    newestFirst: true,
    limit: MOST_SESSIONS,
  });
  const held = sessions.rows.filter((row) => row.cancelled === 0 && row.ends_at <= list.now).reverse();
  const offers = {
    courses,
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
    periods: [
      { value: 'week', label: 'this week' },
      { value: '7-days', label: 'the last 7 days' },
    ],
  };
  const { from, to } = list.period;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionTabs />
        <div className={classes.head}>
          <h1>Attendance</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'learner')} · {sayCount(held.length, 'session')} held
            {sessions.goesOn && `, the last ${MOST_SESSIONS}`} · {sayPeriod({ from, to }, zone, list.now)}
          </span>
          <Outputs list="attendance" params={params} />
        </div>
        <FilterBar
          path={ATTENDANCE.path}
          params={{ ...params, courses: 'all' }}
          sentences={sentencesOf(ATTENDANCE, params)}
          controls={controlsOf(ATTENDANCE, offers)}
        />
        {courses.length > 1 && (
          <p>
            {courses.slice(0, MOST_COURSES).map(({ value, label }, index) => (
              <span key={value}>
                {index > 0 && ' · '}
                <Link
                  href={linkTo(ATTENDANCE.path, { ...params, group: undefined, course: value })}
                  aria-current={params.course === value ? 'true' : undefined}
                >
                  {label}
                </Link>
              </span>
            ))}
            {' · '}
            <Link
              href={linkTo(ATTENDANCE.path, { ...params, course: undefined, group: undefined, courses: 'all' })}
              aria-current={params.course === undefined && params.group === undefined ? 'true' : undefined}
            >
              all courses
            </Link>
          </p>
        )}
        {list.rows.length === 0 ? (
          <p>{params.missed ? 'Nobody has missed so many.' : 'Nobody is enrolled in this part.'}</p>
        ) : held.length === 0 ? (
          <p>No session has been held in this part and time yet. Rolls are taken on each session’s page.</p>
        ) : (
          <AttendanceGrid
            key={list.rows.map(({ id }) => id).join()}
            lines={packRows(list.rows.map((row) => ATTENDANCE.line(row, list)))}
            heads={gridHeads(ATTENDANCE.columns, list.rows)}
            next={list.next}
            total={list.total}
            sessions={held.map((row) => ({
              id: row.id,
              sessionId: row.session_id,
              title: row.title,
              of: [row.course, row.group].filter(Boolean).join(' · '),
              day: row.day,
              taken: row.roll_at !== null,
            }))}
            marks={marks.map(({ code, label, credit, counts }) => ({ code, label, credit, counts: counts === 1 }))}
            params={params}
            here={linkTo(ATTENDANCE.path, params)}
            today={dayOf(runtime.clock.now(), zone)}
          />
        )}
        <p className={classes.soft}>
          The rate is credit over what counts: sessions held and ended, whose roll was taken, while somebody was
          enrolled. The trend holds the last four against those before, in percentage points.
        </p>
      </div>
    </>
  );
}
