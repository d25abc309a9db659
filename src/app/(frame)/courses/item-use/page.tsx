import type { Metadata } from 'next';
import Link from 'next/link';
import { itemUseNotice, sayItemUseNotice, usualReturn, type ItemUseNotice } from '@/core/item-use/item-use';
import { packRows } from '@/core/rows';
import { sayCount, plural } from '@/core/time/words';
import { DAY } from '@/core/time/zone';
import { coursesSeen } from '@/server/courses/reads';
import type { ItemUseRow } from '@/data/item-use/item-use';
import { coursesInLog } from '@/server/access/reads';
import { incompleteDays } from '@/server/feed/feed';
import { ITEM_USE } from '@/server/item-use/item-use';
import { ITEM_USE_COLUMNS, ITEM_USE_ON_PAGE } from '@/server/item-use/item-use-columns';
import { listParams, type Params } from '@/server/request/list';
import { sayPeriod } from '@/server/request/period';
import { openView } from '@/server/request/view';
import { LogIncomplete } from '../../../_frame/incomplete';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { Outputs } from '../../../_list/outputs';
import { TopBar } from '../../../_frame/top-bar';
import { courseOf } from '../course-params';
import { CourseSelect } from '../course-select';
import { OpensChart } from './opens-chart';
import { PeriodMenu } from './period-menu';
import { readOpens, readItemUse } from './read-item-use';
import { ItemUseTable } from './item-use-table';
import classes from '../courses.module.css';

export const metadata: Metadata = { title: 'Item use' };

/** What the page keeps in its link beside what is the list's. */
const OF_CHART = ['by', 'weeks', 'table'] as const;

export default async function ItemUsePage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, ITEM_USE);
  const { runtime, viewer } = frame;
  const { zone } = runtime;
  const courses = await coursesSeen(runtime, frame.viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) {
    return (
      <>
        <TopBar frame={frame} present />
        <div className={frameClasses.page}>
          <CourseTabs />
          <p>You see no course yet: item use shows who has opened each item of a course.</p>
        </div>
      </>
    );
  }
  const chart = Object.fromEntries(
    OF_CHART.filter((name) => frame.params[name]).map((name) => [name, frame.params[name]]),
  );
  const kept: Params = { ...listParams(ITEM_USE, frame.params), ...chart };
  const [{ rows, period, fault, view }, opens, gaps] = await Promise.all([
    orNotFound(readItemUse(runtime, viewer, asked, frame.params)),
    readOpens(runtime, viewer, asked, kept),
    openView(runtime, viewer, asked)
      .then((view) => coursesInLog(runtime, view))
      .then((ids) => incompleteDays(runtime, ids, {})),
  ]);
  const params = { ...kept, course: asked.course };
  const narrowed = period.from !== undefined || period.to !== undefined;
  const now = view.now;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Item use</h1>
          <CourseSelect path="/courses/item-use" params={params} courses={courses} course={asked.course} />
          {asked.group && <span>{asked.group.split('/')[1]}</span>}
          {asked.organisation && <span>{asked.organisation}</span>}
          <PeriodMenu params={params} says={narrowed ? sayPeriod(period, zone, now) : 'at any time'} />
          <span className={classes.soft}>
            {sayCount(rows.length, 'item')} · {sayCount(rows[0]?.base ?? 0, 'learner')} enrolled now
          </span>
          <Outputs list="item-use" params={{ ...params, ...asked, group: asked.group }} />
        </div>
        {fault && (
          <p role="alert" className={classes.fault}>
            This link asks for what cannot be shown: {fault}. All of the time is shown instead, in outline order.
          </p>
        )}
        <LogIncomplete runtime={runtime} view={view} period={period} />
        <StandingOut rows={rows} zone={zone} now={now} />
        <OpensChart
          {...opens}
          course={asked.course}
          params={params}
          zoneNow={now}
          zone={zone}
          group={asked.group}
          asTable={kept.table === 'yes'}
          gaps={gaps}
        />
      </div>
      {rows.length === 0 ? (
        <div className={frameClasses.page}>
          <p>This course has no item yet, or nobody is enrolled. A lead brings in its outline under Set-up.</p>
        </div>
      ) : (
        <ItemUseTable
          rows={packRows(rows)}
          params={params}
          columns={ITEM_USE_ON_PAGE.map((name): { title: string; sort?: string } => {
            const { title, ...column } = ITEM_USE_COLUMNS[name];
            return { title, sort: 'sort' in column ? column.sort : undefined };
          })}
          period={period}
          group={asked.group}
          organisation={asked.organisation}
          weekAgo={now - 7 * DAY}
          usual={usualReturn(rows)}
          zone={zone}
          now={now}
        />
      )}
      <div className={frameClasses.page}>
        <p className={classes.soft}>
          Opened by counts learners enrolled now who looked at, worked on or talked in the item at least once. Minutes
          are an estimate from the time between clicks.
        </p>
      </div>
    </>
  );
}

/** The items that want a look, in words. */
function StandingOut({ rows, zone, now }: { rows: ItemUseRow[]; zone: string; now: number }) {
  const usual = usualReturn(rows);
  // A session is attended, not opened: that nobody opened it says nothing.
  const itemsOf = (notice: ItemUseNotice) =>
    rows.filter((row) => row.kind !== 'session' && itemUseNotice(row, now, usual) === notice);
  const [nobody, returned, unseen] = [itemsOf('nobody'), itemsOf('returned'), itemsOf('unseen change')];
  const names = (some: ItemUseRow[]) =>
    some.slice(0, 3).map((row, index) => (
      <span key={row.item_id}>
        {index > 0 && ', '}
        <Link href={`#${anchorOf(row)}`}>{row.item}</Link>
      </span>
    ));
  const more = (some: ItemUseRow[]) => some.length > 3 && ` and ${some.length - 3} more`;
  if (nobody.length + returned.length + unseen.length === 0) return null;
  return (
    <ul className={classes.notable}>
      {nobody.length > 0 && (
        <li>
          <strong>{sayCount(nobody.length, 'item')}</strong> {plural(nobody.length, 'was', 'were')} opened by nobody:{' '}
          {names(nobody)}
          {more(nobody)}.
        </li>
      )}
      {unseen.map((row) => (
        <li key={row.item_id}>
          <Link href={`#${anchorOf(row)}`}>{row.item}</Link> {sayItemUseNotice('unseen change', row, zone, now)}.
        </li>
      ))}
      {returned.length > 0 && (
        <li>
          <strong>{sayCount(returned.length, 'item')}</strong> that nearly everybody comes back to: {names(returned)}
          {more(returned)}.
        </li>
      )}
    </ul>
  );
}

function anchorOf(row: ItemUseRow): string {
  return `item-${encodeURIComponent(row.item_id)}`;
}
