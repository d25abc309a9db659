import type { Metadata } from 'next';
import Link from 'next/link';
import { groupBy } from '@/core/group-by';
import { sayCount, sayInstant } from '@/core/time/words';
import { fullName } from '@/core/people/name';
import { namesOfKind } from '@/server/courses/parts';
import { lensChoices } from '@/server/courses/reads';
import { crewOfCourses } from '@/server/people/reads';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { WAITING, ageDays, waiting } from '@/server/work/to-grade-list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openDeck, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import deckClasses from '../../../_frame/deck.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { PlainTable } from '@/ui/plain-table';
import classes from '../courses.module.css';

export const metadata: Metadata = { title: 'Waiting on us' };

const MOST = 300;
/** Days after which waiting is long. */
const LONG = 7;

/** Handed in and not answered, by whoever teaches the course, the longest first. */
export default async function WaitingPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams, WAITING);
  const { runtime, viewer } = deck;
  const params = listParams(WAITING, deck.params);
  const [list, choices] = await Promise.all([
    orNotFound(waiting(runtime, viewer, { ...askedOf(WAITING, params), limit: String(MOST) })),
    lensChoices(runtime, viewer),
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
  const file = (format: string) => linkTo('/lists/waiting/export', { ...params, format });
  const { zone } = runtime;
  return (
    <>
      <TopBar deck={deck} />
      <div className={deckClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Waiting on us</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'piece')} handed in, neither graded nor answered
            {list.total > list.rows.length && `; the ${MOST} that wait longest are shown`}
          </span>
          <span className={classes.push}>
            <a href={file('csv')}>CSV</a> <a href={file('xlsx')}>XLSX</a>
          </span>
        </div>
        <FilterBar
          path={WAITING.path}
          params={params}
          sentences={sentencesOf(WAITING, params)}
          controls={controlsOf(WAITING, offers)}
        />
        {list.rows.length === 0 && <p>Nothing waits: everything handed in has a grade or an answer.</p>}
        {groups.map(([name, rows]) => (
          <section key={name} className={classes.chart}>
            <h2>
              {name}
              <span className={classes.soft}>
                {' '}
                · {sayCount(rows.length, 'piece')}, the oldest for{' '}
                {sayCount(ageDays(rows[0].submitted_at, list), 'day')}
              </span>
            </h2>
            <PlainTable label={`Waiting for ${name}`} heads={['Waits', 'Learner', 'Item', 'Handed in', 'Where']}>
              {rows.map((row) => {
                const age = ageDays(row.submitted_at, list);
                return (
                  <tr key={row.id} className={classes.piece}>
                    <td data-owed={age >= LONG || undefined}>{age === 0 ? 'since today' : sayCount(age, 'day')}</td>
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
                          { from: linkTo(WAITING.path, params), item: row.item_id },
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
