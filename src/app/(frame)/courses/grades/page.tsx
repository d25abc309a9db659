import type { Metadata } from 'next';
import { packRows } from '@/core/rows';
import { defaultEdges } from '@/core/grades/bands';
import { sayCount } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { coursesSeen } from '@/server/courses/reads';
import { gradedItems } from '@/server/grades/analysis';
import { GRADES, grades } from '@/server/grades/grades-list';
import { gridHeads } from '@/server/request/grid';
import { controlsOf, sentencesOf } from '@/server/request/list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { courseOf, paramsOfCourse } from '../course-params';
import { CourseSelect } from '../course-select';
import { NoCourse } from '../no-course';
import classes from '../courses.module.css';
import { GradesGrid } from './grades-grid';
import { GradesTabs } from './grades-tabs';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Grades' };

const FIRST = '60';

export default async function GradesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, GRADES);
  const { runtime, viewer } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) return <NoCourse frame={frame} says="grades are those of a course." />;
  const { params, part } = paramsOfCourse(GRADES, frame.params, asked);
  const list = await orNotFound(grades(runtime, viewer, { ...part, limit: FIRST }));
  const course = list.rows[0]?.course;
  const items = (await gradedItems(runtime, list.view.segment.courseId!)).filter(
    ({ category }) => params.category === undefined || category === params.category,
  );
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Grades</h1>
          <CourseSelect
            path={GRADES.path}
            params={{ ...frame.params, category: undefined }}
            courses={courses}
            course={asked.course}
          />
          <GradesTabs here={GRADES.path} params={{ ...part, in: frame.params.in }} />
          <span className={classes.soft}>
            {sayCount(list.total, 'learner')} · {sayCount(items.length, 'item')}
          </span>
          <span className={classes.inline}>
            <FilterBar
              path={GRADES.path}
              params={params}
              sentences={sentencesOf(GRADES, params).filter(({ clears }) => !clears.includes('course'))}
              controls={controlsOf(GRADES, {
                categories: (course?.categories ?? []).map(({ name }) => ({ value: name, label: name })),
              }).filter(({ name }) => name !== 'course')}
            />
          </span>
          <Outputs list="grades" params={part} />
        </div>
        {!course ? (
          <p>Nobody is enrolled in this part now.</p>
        ) : items.length === 0 ? (
          <p>Nothing of this course is graded: no item has points, and no result has come.</p>
        ) : (
          <GradesGrid
            key={`${list.rows.map(({ enrolled }) => enrolled.id).join()}/${params.category ?? ''}`}
            lines={packRows(list.rows.map((row) => GRADES.line(row, list)))}
            heads={gridHeads(GRADES.columns, list.rows)}
            next={list.next}
            total={list.total}
            params={part}
            here={linkTo(GRADES.path, params)}
            course={course.code}
            today={dayOf(runtime.clock.now(), runtime.zone)}
            edges={course.options.bands ?? defaultEdges(course.passMark)}
            passMark={list.rows[0].passMark}
            items={items.map(({ id, externalId, title, unit, category, points }) => ({
              id,
              itemId: externalId,
              title,
              unit,
              category,
              points,
            }))}
          />
        )}
        <p className={classes.soft}>
          On graded work takes what has a grade; if missing work scores 0 counts what is overdue at 0 as well; of the
          whole course counts all that is not yet earned at 0. The bar under a score is as long as its share: whole
          where it is secure, broken where it is getting there, hollow where it is not yet.
        </p>
      </div>
    </>
  );
}
