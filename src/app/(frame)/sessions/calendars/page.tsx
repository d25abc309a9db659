import type { Metadata } from 'next';
import { sayInstant } from '@/core/time/words';
import { isStaffMember } from '@/core/staff/rights';
import { coursesSeen } from '@/server/courses/reads';
import { listFeeds } from '@/server/sessions/reads';
import { PlainTable } from '@/ui/plain-table';
import { openFrame, type SearchParams } from '../../../_frame/page-context';
import { SessionTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../sessions.module.css';
import { DropFeed, MakeFeed } from './feed-forms';

export const metadata: Metadata = { title: 'Calendars' };

export default async function CalendarsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { clock, zone } = runtime;
  const [feeds, courses] = await Promise.all([listFeeds(runtime, viewer), coursesSeen(runtime, viewer)]);
  const now = clock.now();
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <SessionTabs />
        <h1>Calendars</h1>
        <p>
          A calendar program can subscribe to your sessions by a secret address. Whoever has the address reads when and
          where you meet, and no learner’s name. It shows what you see, as long as you see it; revoke it when it has
          gone astray.
        </p>
        {feeds.length === 0 ? (
          <p>You have no such address yet.</p>
        ) : (
          <PlainTable label="Addresses" heads={['Of', 'Made', 'Last read', '']}>
            {feeds.map(({ id, course_title, created_at, read_at }) => (
              <tr key={id} className={classes.line}>
                <td>{course_title ?? 'all that you see'}</td>
                <td>{sayInstant(created_at, zone, now)}</td>
                <td>{read_at === null ? 'never' : sayInstant(read_at, zone, now)}</td>
                <td>
                  <DropFeed id={id} what={course_title ?? 'all that you see'} />
                </td>
              </tr>
            ))}
          </PlainTable>
        )}
        <MakeFeed courses={courses.map(({ code, title }) => ({ value: code, label: title }))} />
        {isStaffMember(viewer) && (
          <p className={classes.soft}>
            The other way round, a calendar file (iCalendar) comes in under Set-up as <em>sessions</em>: repeated, moved
            and cancelled ones included.
          </p>
        )}
      </div>
    </>
  );
}
