import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount } from '@/core/time/words';
import { dateOfDay, dayOf, weekday } from '@/core/time/zone';
import { namesOfKind } from '@/server/courses/segments';
import { segmentChoices } from '@/server/courses/reads';
import { askedOf, controlsOf, listParams, sentencesOf, type Params } from '@/server/request/list';
import { mayPlanAny } from '@/server/sessions/rights';
import { SESSIONS, sessions } from '@/server/sessions/sessions-list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { SessionTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../sessions.module.css';
import { SessionList } from './session-list';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'List of sessions' };

const FIRST = '60';
const PERIODS = [
  { value: 'today', label: 'today' },
  { value: 'week', label: 'this week' },
  { value: '7-days', label: 'the last 7 days' },
];

export default async function SessionListPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, SESSIONS);
  const { runtime, viewer } = frame;
  const given = listParams(SESSIONS, frame.params);
  // Without anything else said: from this week on, since what is over is looked for less often.
  const asks = given.from ?? given.to ?? given.period ?? given.roll ?? frame.params.past;
  const today = dayOf(runtime.clock.now(), runtime.zone);
  const monday = dateOfDay(today - weekday(today));
  const params: Params = asks === undefined ? { ...given, from: monday } : { ...given, past: frame.params.past };
  const [list, choices] = await Promise.all([
    orNotFound(sessions(runtime, viewer, { ...askedOf(SESSIONS, params), limit: FIRST })),
    segmentChoices(runtime, viewer),
  ]);
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
    periods: PERIODS,
  };
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <SessionTabs />
        <div className={classes.head}>
          <h1>Sessions</h1>
          <span className={classes.soft}>{sayCount(list.total, 'session')}</span>
          {asks === undefined ? (
            <span>
              from this week on · <Link href={linkTo(SESSIONS.path, { ...given, past: 'yes' })}>earlier ones too</Link>
            </span>
          ) : (
            <Link href={linkTo(SESSIONS.path, { in: frame.segmentKey })}>from this week on</Link>
          )}
          <Outputs list="sessions" params={params} />
        </div>
        <FilterBar
          path={SESSIONS.path}
          params={params}
          sentences={sentencesOf(SESSIONS, params)}
          controls={controlsOf(SESSIONS, offers)}
        />
        {list.rows.length === 0 ? (
          <p>
            {params.roll ? 'Every roll is taken.' : 'No session here yet.'} A whole timetable comes in under Set-up,
            from a file or a calendar.
          </p>
        ) : (
          <SessionList
            key={list.rows.map(({ id, changed_at, roll_at }) => `${id}/${changed_at}/${roll_at}`).join()}
            lines={list.rows.map((row) => SESSIONS.line(row, list))}
            next={list.next}
            params={params}
            mayPlan={mayPlanAny(viewer)}
          />
        )}
      </div>
    </>
  );
}
