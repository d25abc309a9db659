import type { Metadata } from 'next';
import Link from 'next/link';
import { groupBy } from '@/core/group-by';
import { sayCount, sayInstant } from '@/core/time/words';
import { fullName } from '@/core/people/name';
import { namesOfKind } from '@/server/courses/segments';
import { segmentChoices } from '@/server/courses/reads';
import { crewOfCourses } from '@/server/people/reads';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { TO_GRADE, ageDays, toGrade } from '@/server/work/to-grade-list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { PlainTable } from '@/ui/plain-table';
import classes from '../courses.module.css';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'To grade' };

const MOST = 300;
/** Days after which waiting is long. */
const LONG = 7;

/** Handed in and not answered, by whoever teaches the course, the longest first. */
export default async function ToGradePage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, TO_GRADE);
  const { runtime, viewer } = frame;
  const params = listParams(TO_GRADE, frame.params);
  const [list, choices] = await Promise.all([
    orNotFound(toGrade(runtime, viewer, { ...askedOf(TO_GRADE, params), limit: String(MOST) })),
    segmentChoices(runtime, viewer),
  ]);
  const crew = await crewOfCourses(runtime, viewer, [...new Set(list.rows.map(({ course_id }) => course_id))]);
  const whose = (courseId: number) =>
    crew
      .filter((one) => one.course_id === courseId && one.role === 'instructor')
      .map(({ name }) => name)
      .join(', ') || 'nobody teaches it here';
  const groups = [...groupBy(list.rows, (row) => whose(row.course_id))];
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
  };
  const { zone } = runtime;
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>To grade</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'assignment')} handed in, neither graded nor answered
            {list.total > list.rows.length && `; the ${MOST} that wait longest are shown`}
          </span>
          <Outputs list="to-grade" params={params} />
        </div>
        <FilterBar
          path={TO_GRADE.path}
          params={params}
          sentences={sentencesOf(TO_GRADE, params)}
          controls={controlsOf(TO_GRADE, offers)}
        />
        {list.rows.length === 0 && <p>Nothing waits: everything handed in has a grade or an answer.</p>}
        {groups.map(([name, rows]) => (
          <section key={name} className={classes.chart}>
            <h2>
              {name}
              <span className={classes.soft}>
                {' '}
                · {sayCount(rows.length, 'assignment')}, the oldest for{' '}
                {sayCount(ageDays(rows[0].submitted_at, list), 'day')}
              </span>
            </h2>
            <PlainTable label={`Waiting for ${name}`} heads={['Waits', 'Learner', 'Item', 'Handed in', 'Where']}>
              {rows.map((row) => {
                const age = ageDays(row.submitted_at, list);
                return (
                  <tr key={row.id} className={classes.item}>
                    <td data-overdue={age >= LONG || undefined}>{age === 0 ? 'since today' : sayCount(age, 'day')}</td>
                    <td>
                      <Link href={`/learners/${encodeURIComponent(row.learner_id)}`}>
                        <bdi>{fullName(row)}</bdi>
                      </Link>
                      <small>{[row.course, row.group].filter(Boolean).join(' · ')}</small>
                    </td>
                    <td>
                      <Link
                        href={linkTo(
                          `/learners/${encodeURIComponent(row.learner_id)}/courses/${encodeURIComponent(row.course)}`,
                          { from: linkTo(TO_GRADE.path, params), item: row.item_id },
                        )}
                      >
                        {row.item}
                      </Link>
                      {row.number > 1 && <small>attempt {row.number}</small>}
                    </td>
                    <td>{sayInstant(row.submitted_at, zone, list.now)}</td>
                    <td>
                      {row.url ? (
                        <a href={row.url} target="_blank" rel="noreferrer noopener">
                          Open on its platform
                        </a>
                      ) : (
                        <span className={classes.soft}>no address</span>
                      )}
                    </td>
                  </tr>
                );
              })}
            </PlainTable>
          </section>
        ))}
      </div>
    </>
  );
}
