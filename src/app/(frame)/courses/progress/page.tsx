import type { Metadata } from 'next';
import Link from 'next/link';
import { packRows } from '@/core/rows';
import { sayCount, sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { PROGRESS, courseOfGrid, progress } from '@/server/completion/progress-list';
import { coursesSeen } from '@/server/courses/reads';
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
import { ParamSelect } from '../../../_list/param-select';
import classes from '../courses.module.css';
import { ProgressGrid } from './progress-grid';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Progress' };

const FIRST = '60';

export default async function ProgressPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, PROGRESS);
  const { runtime, viewer } = frame;
  const { zone } = runtime;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(frame.params, courses);
  if (!asked) return <NoCourse frame={frame} says="progress shows who has done what of a course." />;
  const { params, part } = paramsOfCourse(PROGRESS, frame.params, asked);
  const list = await orNotFound(progress(runtime, viewer, { ...part, limit: FIRST }));
  const course = await courseOfGrid(runtime, list.view.segment.courseId!);
  const today = dayOf(list.now, zone);
  const { unit, required } = frame.params;
  const shown = course.items.flatMap((item, index) =>
    (unit === undefined || String(item.unitId) === unit) && (required !== 'yes' || item.required)
      ? [{ item, index }]
      : [],
  );
  const units = [
    ...new Map(course.items.flatMap((item) => (item.unitId === null ? [] : [[item.unitId, item.unit!]]))).entries(),
  ];
  const kept = { ...params, ...(unit ? { unit } : {}), ...(required ? { required } : {}) };
  const names = Object.fromEntries(course.items.map(({ externalId, title }) => [externalId, title]));
  const link = (changes: Record<string, string | null>) => linkTo(PROGRESS.path, { ...kept, ...changes });
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Progress</h1>
          <CourseSelect
            path={PROGRESS.path}
            params={{ ...frame.params, not_done: undefined, unit: undefined }}
            courses={courses}
            course={asked.course}
          />
          {asked.group && <span>{asked.group.split('/')[1]}</span>}
          <span className={classes.soft}>
            {sayCount(list.total, 'learner')} · {sayCount(shown.length, 'item')}
          </span>
          <span className={classes.choices}>
            <Link href={link({ unit: null, required: null })} aria-current={!unit && !required ? 'true' : undefined}>
              every item
            </Link>
            <Link href={link({ unit: null, required: 'yes' })} aria-current={required === 'yes' ? 'true' : undefined}>
              required alone
            </Link>
          </span>
          {units.length > 1 && (
            <ParamSelect
              label="Unit"
              name="unit"
              none="every unit"
              path={PROGRESS.path}
              params={kept}
              choices={units.map(([id, title]) => ({ value: String(id), label: title }))}
            />
          )}
          <span className={classes.inline}>
            <FilterBar
              path={PROGRESS.path}
              params={kept}
              sentences={sentencesOf(PROGRESS, params, { not_done: names[params.not_done ?? ''] }).filter(
                ({ clears }) => !clears.includes('course'),
              )}
              controls={controlsOf(PROGRESS, {}).filter(({ name }) => name !== 'course')}
            />
          </span>
          <Outputs list="progress" params={part} />
        </div>
        {list.rows.length === 0 ? (
          <p>
            {list.query.course_status || list.query.not_done
              ? 'Nobody is left by these filters.'
              : 'Nobody is enrolled in this part now.'}
          </p>
        ) : shown.length === 0 ? (
          <p>This course has no such item. A lead brings in its outline under Set-up.</p>
        ) : (
          <ProgressGrid
            key={`${list.rows.map(({ enrolled }) => enrolled.id).join()}/${unit ?? ''}/${required ?? ''}`}
            lines={packRows(list.rows.map((row) => PROGRESS.line(row, list)))}
            heads={gridHeads(PROGRESS.columns, list.rows)}
            next={list.next}
            total={list.total}
            params={part}
            here={linkTo(PROGRESS.path, kept)}
            course={course.code}
            today={today}
            items={shown.map(({ item, index }) => ({
              id: item.id,
              itemId: item.externalId,
              index,
              title: item.title,
              unit: item.unit,
              isRequired: item.required,
              due: item.dueAt === null ? null : sayDay(dayOf(item.dueAt, zone), today),
            }))}
          />
        )}
        <p className={classes.soft}>
          Ring: not started; half: started; disc: done, with a second ring where somebody marked it; dash: exempt;
          magenta with a notch: overdue. A head selects who has not done its item. Behind plan counts required items
          planned by now, by their due dates or else spread evenly
          {course.end !== null && ` to ${sayDay(course.end, today)}`}, less those done.
        </p>
      </div>
    </>
  );
}
