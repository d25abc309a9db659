import type { Metadata } from 'next';
import Link from 'next/link';
import { sayTime } from '@/core/time/words';
import { coursesSeen } from '@/server/courses/reads';
import { InvalidInput } from '@/server/request/input';
import { rightNow } from '@/server/access/live/now';
import { linkTo } from '../../../_list/list-link';
import { openFrame, type FrameContext, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { NowScreen } from './now-screen';

export const metadata: Metadata = { title: 'Right now' };

/** More courses than these are found in the bar. */
const MOST_COURSES = 8;

async function read({ runtime, view, params }: FrameContext) {
  // This screen shows now, whichever day is looked at elsewhere.
  const present = { ...view, asOf: null, now: runtime.clock.now() };
  try {
    return await rightNow(runtime, present, { since: params.since });
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return rightNow(runtime, present, {});
  }
}

/** This hour in one's courses, arriving by itself. */
export default async function NowPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, segmentKey } = frame;
  const { clock, zone } = runtime;
  const courses = await coursesSeen(runtime, frame.viewer);
  const { events, last, cut, sources, inClass, since, session } = await read(frame);
  // Somebody who asks for another time looks at the log, not at the session.
  const inClassOfSession = frame.params.since === undefined;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        {inClass === null && courses.length > 0 && (
          <p>
            Class list of{' '}
            {courses.slice(0, MOST_COURSES).map(({ code, title }, index) => (
              <span key={code}>
                {index > 0 && ' · '}
                <Link href={linkTo('/courses/now', { in: `course:${code}` })}>{title}</Link>
              </span>
            ))}
            {courses.length > MOST_COURSES && ', or of any course chosen above'}
          </p>
        )}
      </div>
      <NowScreen
        // Another part is another stream, and another time another list.
        key={`${segmentKey ?? 'all'} ${since}`}
        first={events}
        last={last}
        cut={cut}
        sources={sources}
        inClass={inClass}
        since={since}
        sinceText={sayTime(since, zone)}
        session={
          session && {
            id: inClassOfSession ? session.session_id : null,
            title: session.title,
            version: session.version,
          }
        }
        part={segmentKey}
        now={clock.now()}
        zone={zone}
      />
    </>
  );
}
