import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayInstant } from '@/core/time/words';
import { namesOfKind } from '@/server/courses/segments';
import { segmentChoices } from '@/server/courses/reads';
import { POSTERS, postsByPeople, whoAnswered } from '@/server/posts/posts-list';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../../_list/filter-bar';
import { linkTo } from '../../../../_list/list-link';
import { Outputs } from '../../../../_list/outputs';
import { SortHeads } from '../../../../_list/sort-heads';
import { PersonLink } from '../../../../_people/person-link';
import { PERIOD_CHOICES } from '../../../../_frame/periods';
import { openFrame, orNotFound, type SearchParams } from '../../../../_frame/page-context';
import { CourseTabs } from '../../../../_frame/sections';
import frameClasses from '../../../../_frame/frame.module.css';
import { TopBar } from '../../../../_frame/top-bar';
import classes from '../../courses.module.css';

export const metadata: Metadata = { title: 'Who wrote' };

const SHOWN = '100';
const HEADS = [
  ['Learner', 'name'],
  ['Posts', 'posts'],
  ['Replies', 'replies'],
  ['Words', 'words'],
  ['Discussions', 'forums'],
  ['First', 'first'],
  ['Last', 'last'],
] as const;

/** Who wrote how much in discussions, who never did, and who answered whom. */
export default async function PostersPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, POSTERS);
  const { runtime, viewer } = frame;
  const params = listParams(POSTERS, frame.params);
  const asked = { ...askedOf(POSTERS, params), limit: SHOWN, cursor: frame.params.cursor };
  const [list, choices] = await Promise.all([
    orNotFound(postsByPeople(runtime, viewer, asked)),
    segmentChoices(runtime, viewer),
  ]);
  const pairs = await whoAnswered(runtime, list.view, list.period);
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
    periods: PERIOD_CHOICES,
  };
  const when = (at: number | null) => (at === null ? 'never' : sayInstant(at, list.zone, list.now));
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Who wrote</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'learner')} ·{' '}
            <Link href={linkTo(POSTERS.path, { ...params, wrote: 'no' })}>{list.never} never wrote</Link>
          </span>
          <Link href={linkTo('/courses/posts', { in: frame.segmentKey, course: params.course })}>The posts</Link>
          <Outputs list="posts-people" params={params} />
        </div>
        <FilterBar
          path={POSTERS.path}
          params={params}
          sentences={sentencesOf(POSTERS, params)}
          controls={controlsOf(POSTERS, offers)}
        />
        {list.rows.length === 0 ? (
          <p>Nobody in this part.</p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Who wrote">
            <table className={classes.courses}>
              <thead>
                <SortHeads heads={HEADS} usual="-posts" path={POSTERS.path} params={params} className={classes.sort} />
              </thead>
              <tbody>
                {list.rows.map((row) => (
                  <tr key={row.id}>
                    <th scope="row">
                      <PersonLink learnerId={row.learner_id} name={row.name} />
                    </th>
                    <td>
                      {row.posts === 0 ? (
                        0
                      ) : (
                        <Link
                          href={linkTo('/courses/posts', {
                            ...params,
                            wrote: null,
                            sort: null,
                            learner: row.learner_id,
                          })}
                        >
                          {row.posts}
                        </Link>
                      )}
                    </td>
                    <td>{row.replies}</td>
                    <td>{row.words}</td>
                    <td>{row.forums}</td>
                    <td>{when(row.first)}</td>
                    <td>{when(row.last)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
        {list.next !== null && <Link href={linkTo(POSTERS.path, { ...params, cursor: list.next })}>More</Link>}
        {pairs.length > 0 && (
          <section className={classes.chart}>
            <h2>Who answered whom</h2>
            <PlainTable label="Who answered whom" heads={['Who', 'Answered', 'Times']}>
              {pairs.map((pair) => (
                <tr key={`${pair.from_id} ${pair.to_id}`} className={classes.item}>
                  <td>
                    <PersonLink learnerId={pair.from_id} name={pair.from_name} />
                  </td>
                  <td>
                    <PersonLink learnerId={pair.to_id} name={pair.to_name} />
                  </td>
                  <td>{pair.answers}</td>
                </tr>
              ))}
            </PlainTable>
          </section>
        )}
        <p className={classes.soft}>
          Posts are all that somebody wrote, replies among them; words by the word boundaries of Unicode. Who answered
          whom is of learners whose posts say what they answer, the most frequent first.
        </p>
      </div>
    </>
  );
}
