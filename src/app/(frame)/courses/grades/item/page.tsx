import { sayPercent } from '@/core/percent';
import type { Metadata } from 'next';
import Link from 'next/link';
import { fullName } from '@/core/people/name';
import { sayCount } from '@/core/time/words';
import { POLICY_WORDS } from '@/core/work/attempt';
import { coursesSeen } from '@/server/courses/reads';
import { analyseItem, gradedItems, gradesInView } from '@/server/grades/analysis';
import type { GradesRow } from '@/server/grades/grades-list';
import { openView } from '@/server/request/view';
import { Series } from '@/ui/series';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import { CourseTabs } from '../../../../_frame/sections';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import { courseOf } from '../../course-params';
import { CourseSelect } from '../../course-select';
import { ParamSelect } from '../../../../_list/param-select';
import { NoCourse } from '../../no-course';
import classes from '../../courses.module.css';
import { GradesTabs } from '../grades-tabs';
import { Distribution } from './distribution';

export const metadata: Metadata = { title: 'Grades of an item' };

const PATH = '/courses/grades/item';

function hasScore({ grades }: GradesRow, itemId: number): boolean {
  return grades.some((grade) => grade.item.id === itemId && grade.counting !== null);
}

/** One item: how its scores are spread, and how first, best and last attempts went. */
export default async function ItemGradesPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, params } = frame;
  const courses = await coursesSeen(runtime, viewer);
  const asked = courseOf(params, courses);
  if (!asked) return <NoCourse frame={frame} says="grades are those of a course." />;
  const view = await orNotFound(openView(runtime, viewer, asked, frame.view.asOf ?? undefined));
  const rows = await gradesInView(runtime, view);
  const items = await gradedItems(runtime, view.segment.courseId!);
  // The last of which enough is graded, until one is chosen.
  const item =
    items.find(({ externalId }) => externalId === params.item) ??
    items.findLast(({ id }) => rows.filter((row) => hasScore(row, id)).length >= Math.min(5, rows.length)) ??
    items[0];
  const analysis = item && analyseItem(rows, item);
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Grades</h1>
          <CourseSelect path={PATH} params={{ ...params, item: undefined }} courses={courses} course={asked.course} />
          <GradesTabs here={PATH} params={{ ...asked, in: params.in }} />
          {item && (
            <ParamSelect
              label="Item"
              name="item"
              path={PATH}
              params={{ ...params, course: asked.course }}
              choices={items.map(({ externalId, title }) => ({ value: externalId, label: title }))}
            />
          )}
        </div>
        {!analysis ? (
          <p>Nothing of this course is graded yet.</p>
        ) : (
          <>
            <p>
              {sayCount(analysis.spread.n, 'learner')} with a score of {analysis.learners.length},{' '}
              {sayCount(analysis.attempts, 'attempt')}; mean <strong>{sayPercent(analysis.spread.mean, 1)}</strong>,
              median <strong>{sayPercent(analysis.spread.median, 1)}</strong>
              {analysis.spread.low !== null &&
                `, the middle half from ${sayPercent(analysis.spread.low, 1)} to ${sayPercent(analysis.spread.high, 1)}`}
              . First attempts {sayPercent(analysis.first, 1)}, best {sayPercent(analysis.best, 1)}, last{' '}
              {sayPercent(analysis.last, 1)}; {POLICY_WORDS[analysis.item.policy]} counts.{' '}
              <Link href={linkTo('/courses/questions', { course: asked.course, item: analysis.item.externalId })}>
                Its questions
              </Link>
            </p>
            <Distribution
              tenths={analysis.tenths}
              asTable={params.table === 'yes'}
              switchHref={linkTo(PATH, {
                ...params,
                course: asked.course,
                item: analysis.item.externalId,
                table: params.table === 'yes' ? null : 'yes',
              })}
            />
            <PlainTable label="Learners" heads={['Learner', 'Counts', 'First', 'Best', 'Last', 'Attempts', 'Pattern']}>
              {[...analysis.learners]
                .sort((a, b) => (a.percent ?? 999) - (b.percent ?? 999))
                .map((learner) => (
                  <tr key={learner.enrolled.enrolmentId} className={classes.item}>
                    <td>
                      <Link
                        href={linkTo(
                          `/learners/${encodeURIComponent(learner.enrolled.learner_id)}/courses/${encodeURIComponent(asked.course)}`,
                          {
                            item: analysis.item.externalId,
                            form: 'full',
                            from: linkTo('/courses/grades', { course: asked.course }),
                          },
                        )}
                      >
                        <bdi>{fullName(learner.enrolled)}</bdi>
                      </Link>
                    </td>
                    <td>{sayPercent(learner.percent, 1)}</td>
                    <td>{sayPercent(learner.first, 1)}</td>
                    <td>{sayPercent(learner.best, 1)}</td>
                    <td>{sayPercent(learner.last, 1)}</td>
                    <td>{learner.attempts}</td>
                    <td>
                      {learner.shares.length > 1 && (
                        <Series
                          values={learner.shares}
                          width={60}
                          says={learner.shares.map((share) => `${Math.round(share)} %`).join(', ')}
                        />
                      )}{' '}
                      {learner.pattern}
                    </td>
                  </tr>
                ))}
            </PlainTable>
          </>
        )}
      </div>
    </>
  );
}
