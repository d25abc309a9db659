import { sayPercent } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { coursesSeen } from '@/server/courses/reads';
import { GROUP_GRADES, groupsCompared } from '@/server/grades/analysis';
import { listParams, type Params } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import { CourseTabs } from '../../../../_frame/sections';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { courseOf } from '../../course-params';
import { CourseSelect } from '../../course-select';
import { NoCourse } from '../../no-course';
import classes from '../../courses.module.css';
import { GradesTabs } from '../grades-tabs';
import { Spreads } from './spreads';
import { Outputs } from '../../../../_list/outputs';

export const metadata: Metadata = { title: 'Groups compared' };

const PATH = '/courses/grades/groups';
const BY = [
  ['course', 'graded work'],
  ['category', 'by category'],
  ['item', 'by item'],
] as const;

/** Groups of a course beside each other. */
export default async function GroupsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, GROUP_GRADES);
  const { runtime, viewer } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) return <NoCourse frame={frame} says="groups are those of a course." />;
  const params: Params = { ...listParams(GROUP_GRADES, frame.params), course: asked.course };
  const list = await orNotFound(
    groupsCompared(runtime, viewer, { ...params, organisation: asked.organisation, limit: '1000' }),
  );
  const by = list.query.by ?? 'course';
  const isTable = frame.params.table === 'yes';
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Grades</h1>
          <CourseSelect path={PATH} params={frame.params} courses={courses} course={asked.course} />
          <GradesTabs here={PATH} params={{ ...asked, in: frame.params.in }} />
          <Outputs list="group-grades" params={params} />
        </div>
        <div className={classes.chartHead} style={{ marginTop: 12 }}>
          <strong>Groups compared</strong>
          <span className={classes.choices}>
            {BY.map(([value, title]) => (
              <Link
                key={value}
                scroll={false}
                href={linkTo(PATH, { ...params, by: value })}
                aria-current={value === by ? 'true' : undefined}
              >
                {title}
              </Link>
            ))}
          </span>
          <span className={classes.choices}>
            <Link scroll={false} href={linkTo(PATH, { ...params, table: isTable ? null : 'yes' })}>
              {isTable ? 'Show as chart' : 'Show as table'}
            </Link>
          </span>
        </div>
        {list.rows.every(({ n }) => n === 0) ? (
          <p>Nothing is graded yet, so there is nothing to compare.</p>
        ) : isTable ? (
          <PlainTable
            label="Groups compared"
            heads={['What', 'Group', 'Learners', 'Mean', 'Median', 'Lower quartile', 'Upper quartile']}
          >
            {list.rows.map(({ what, group, n, mean, median, low, high }) => (
              <tr key={`${what}/${group}`} className={classes.item}>
                <td>{what}</td>
                <td>{group}</td>
                <td>{n}</td>
                <td>{sayPercent(mean, 1)}</td>
                <td>{sayPercent(median, 1)}</td>
                <td>{n > 0 && low === null ? 'too few' : sayPercent(low, 1)}</td>
                <td>{n > 0 && high === null ? 'too few' : sayPercent(high, 1)}</td>
              </tr>
            ))}
          </PlainTable>
        ) : (
          <Spreads rows={list.rows} />
        )}
        <p className={classes.soft}>
          A line from the lower to the upper quartile, a tick at the median, a disc at the mean, in per cent from 0 to
          100. Under five scores the spread is not drawn.
        </p>
      </div>
    </>
  );
}
