import type { Metadata } from 'next';
import Link from 'next/link';
import { FOLLOW_UP_STATES, FOLLOW_UP_WORDS, type FollowUpState } from '@/core/contact/follow-up';
import { dayOf } from '@/core/time/zone';
import { findFollowUps } from '@/server/contact/reads';
import { FOLLOW_UP_PAGE, openFollowUps } from '@/server/contact/follow-ups';
import { lastWeek, type LastWeek } from '@/server/contact/my-week';
import { sayCount, sayDay } from '@/core/time/words';
import { linkTo } from '../../_list/list-link';
import { openFrame, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { FollowUpTabs } from '../../_frame/sections';
import { TopBar } from '../../_frame/top-bar';
import { ClosedList } from './closed-list';
import { FollowUpList } from './follow-up-list';
import classes from './follow-ups.module.css';

export const metadata: Metadata = { title: 'Follow-ups' };

/** Closed ones shown, the newest. */
const CLOSED_SHOWN = 100;

/** "My last week, Mon 16 to Sun 22 Nov: 12 people contacted · 5 answered · 4 came back, 8 are still out · 3 follow-ups promised". */
function sayLastWeek({ monday, sunday, contacted, answered, cameBack, stillOut, promised }: LastWeek): string {
  const says = [
    `${sayCount(contacted, 'person', 'people')} contacted`,
    contacted > 0 && `${answered} answered`,
    contacted > 0 && `${cameBack} came back, ${stillOut} still out`,
    `${sayCount(promised, 'follow-up')} promised`,
  ];
  return `My last week, ${sayDay(monday)} to ${sayDay(sunday)}: ${says.filter(Boolean).join(' · ')}`;
}

export default async function FollowUpsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, view, params, segmentKey } = frame;
  const { clock, zone } = runtime;
  const now = clock.now();
  const whose = params.whose === 'all' ? 'all' : 'mine';
  const closed = params.state === 'closed';
  const state = FOLLOW_UP_STATES.find((state) => state === params.state) ?? null;
  const page = Math.max(1, Math.floor(Number(params.page)) || 1);
  const [list, before] = await Promise.all([
    openFollowUps(runtime, view, { whose, state, page }),
    lastWeek(runtime, frame.viewer),
  ]);
  const link = (changes: Record<string, string | null>) =>
    linkTo('/follow-ups', {
      in: segmentKey,
      whose: whose === 'all' ? 'all' : null,
      state: params.state ?? null,
      ...changes,
    });
  const ownerId = whose === 'mine' ? frame.viewer.staffId : undefined;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <div className={classes.head}>
          <h1>Follow-ups</h1>
          <span className={classes.soft}>{closed ? 'what came of them' : `${list.listed} of ${list.total} open`}</span>
          <span className={classes.whose}>
            <Link href={link({ whose: null })} aria-current={whose === 'mine' ? 'true' : undefined}>
              mine
            </Link>
            <Link href={link({ whose: 'all' })} aria-current={whose === 'all' ? 'true' : undefined}>
              everybody’s
            </Link>
          </span>
        </div>
        <FollowUpTabs />
        {whose === 'mine' && !closed && before && <p className={classes.lastWeek}>{sayLastWeek(before)}</p>}
        <nav className={classes.states} aria-label="States">
          {FOLLOW_UP_STATES.map((one: FollowUpState) => (
            <Link
              key={one}
              href={link({ state: one === state ? null : one })}
              aria-current={one === state ? 'true' : undefined}
              data-state={one}
            >
              <strong>{list.counts[one]}</strong> {FOLLOW_UP_WORDS[one]}
            </Link>
          ))}
          <Link href={link({ state: closed ? null : 'closed' })} aria-current={closed ? 'true' : undefined}>
            closed
          </Link>
        </nav>
      </div>
      {closed ? (
        <ClosedList
          rows={await findFollowUps(runtime, view, { ownerId, state: 'closed', limit: CLOSED_SHOWN })}
          now={now}
          zone={zone}
        />
      ) : list.rows.length === 0 ? (
        <div className={frameClasses.page}>
          <p>
            {list.total === 0
              ? 'Nothing is promised. A follow-up date, set when you write, log a call or from a learner’s page, puts somebody here.'
              : `Nothing is ${state === null ? 'here' : FOLLOW_UP_WORDS[state]}.`}
          </p>
        </div>
      ) : (
        <FollowUpList
          key={`${segmentKey} ${whose} ${state} ${list.page}`}
          rows={list.rows}
          offset={(list.page - 1) * FOLLOW_UP_PAGE}
          total={list.listed}
          today={dayOf(now, zone)}
          now={now}
          zone={zone}
          here={link({ page: list.page > 1 ? String(list.page) : null })}
        />
      )}
      {!closed && list.pages > 1 && (
        <nav className={`${classes.states} ${frameClasses.wide}`} aria-label="Pages">
          {list.page > 1 && <Link href={link({ page: String(list.page - 1) })}>Previous</Link>}
          <span>
            Page {list.page} of {list.pages}
          </span>
          {list.page < list.pages && <Link href={link({ page: String(list.page + 1) })}>Next</Link>}
        </nav>
      )}
    </>
  );
}
