import type { Metadata } from 'next';
import Link from 'next/link';
import { fullName } from '@/core/people/name';
import { sayCount, sayInstant } from '@/core/time/words';
import { coursesSeen } from '@/server/courses/reads';
import { CHANGES, changes } from '@/server/grades/changes-list';
import { InvalidInput } from '@/server/request/input';
import { listParams, sentencesOf, type Params } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../../_list/filter-bar';
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
import { PeriodForm } from '../../period-form';
import { Outputs } from '../../../../_list/outputs';

export const metadata: Metadata = { title: 'History of grades' };

const PATH = '/courses/grades/changes';
const PAGE = '100';
const short = (value: number | null) => (value === null ? '–' : String(Math.round(value * 100) / 100));

/** Every change of a grade between two dates, newest first. */
export default async function ChangesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, CHANGES);
  const { runtime, viewer } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) return <NoCourse frame={frame} says="grades are those of a course." />;
  const params: Params = { ...listParams(CHANGES, frame.params), course: asked.course };
  const whole = { course: asked.course, group: asked.group ?? '', organisation: asked.organisation ?? '', limit: PAGE };
  const read = (cursor?: string) => changes(runtime, viewer, { ...params, ...whole, cursor });
  const list = await orNotFound(
    read(frame.params.cursor).catch((error: unknown) => {
      // A place that is none is no place to go on from: the first page it is.
      if (error instanceof InvalidInput) return read();
      throw error;
    }),
  );
  const { zone } = runtime;
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Grades</h1>
          <CourseSelect path={PATH} params={frame.params} courses={courses} course={asked.course} />
          <GradesTabs here={PATH} params={{ ...asked, in: frame.params.in }} />
          <span className={classes.soft}>{sayCount(list.total, 'change')}</span>
          <Outputs list="grade-changes" params={params} />
        </div>
        <PeriodForm
          label="Changed from"
          verb="Show"
          path={PATH}
          params={{ ...params, from: undefined, to: undefined }}
          from={params.from?.slice(0, 10) ?? ''}
          to={params.to?.slice(0, 10) ?? ''}
        />
        <FilterBar path={PATH} params={params} sentences={sentencesOf(CHANGES, params)} controls={[]} />
        {list.rows.length === 0 ? (
          <p>No grade was given or changed in this time.</p>
        ) : (
          <PlainTable label="Changes of grades" heads={['When', 'Learner', 'Item', 'Before', 'After', 'By', 'Why']}>
            {list.rows.map((row) => (
              <tr key={row.id} className={classes.item}>
                <td>{sayInstant(row.at, zone, list.now)}</td>
                <td>
                  <Link
                    href={`/learners/${encodeURIComponent(row.learner_id)}/courses/${encodeURIComponent(row.course)}`}
                  >
                    <bdi>{fullName(row)}</bdi>
                  </Link>
                </td>
                <td>
                  {row.item}
                  {row.number > 1 && <small>attempt {row.number}</small>}
                </td>
                <td>{row.old === null ? <span className={classes.soft}>none</span> : short(row.old)}</td>
                <td>
                  {short(row.score)}
                  {row.points !== null && <span className={classes.soft}> of {short(row.points)}</span>}
                </td>
                <td>
                  <bdi>{row.by ?? ''}</bdi>
                </td>
                <td>
                  <bdi>{row.why}</bdi>
                </td>
              </tr>
            ))}
          </PlainTable>
        )}
        {list.next && (
          <p>
            <Link href={linkTo(PATH, { ...params, cursor: list.next })}>Earlier ones</Link>
          </p>
        )}
      </div>
    </>
  );
}
