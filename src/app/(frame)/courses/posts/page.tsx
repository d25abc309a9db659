import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayInstant } from '@/core/time/words';
import type { PostRow } from '@/data/posts/posts';
import { namesOfKind } from '@/server/courses/segments';
import { segmentChoices } from '@/server/courses/reads';
import { POSTS, discussionsIn, posts } from '@/server/posts/posts-list';
import { askedOf, controlsOf, listParams, sentencesOf, type Params } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { Outputs } from '../../../_list/outputs';
import { PersonLink } from '../../../_people/person-link';
import { PERIOD_CHOICES } from '../../../_frame/periods';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../courses.module.css';

export const metadata: Metadata = { title: 'Posts' };

/** Posts on a page. */
const SHOWN = '50';

/** What was written in discussions, newest first, found by its words. */
export default async function PostsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, POSTS);
  const { runtime, viewer } = frame;
  const given = listParams(POSTS, frame.params);
  const params: Params = { ...given, q: given.q?.slice(0, 200) };
  const asked = { ...askedOf(POSTS, params), limit: SHOWN, cursor: frame.params.cursor };
  const [list, choices] = await Promise.all([
    orNotFound(posts(runtime, viewer, asked)),
    segmentChoices(runtime, viewer),
  ]);
  const discussions = await discussionsIn(runtime, list.view);
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
    items: discussions.map(({ item_id, item, course }) => ({ value: item_id, label: `${item} · ${course}` })),
    periods: PERIOD_CHOICES,
  };
  const names = { item: discussions.find(({ item_id }) => item_id === params.item)?.item };
  const isAny = list.rows.length > 0;
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Posts</h1>
          <span className={classes.soft}>{sayCount(list.total, 'post')}</span>
          <Link href={linkTo('/courses/posts/people', { in: frame.segmentKey, course: params.course })}>
            Who wrote, and who never did
          </Link>
          <Outputs list="posts" params={params} />
        </div>
        <FilterBar
          path={POSTS.path}
          params={params}
          sentences={sentencesOf(POSTS, params, names)}
          controls={controlsOf(POSTS, offers)}
          search={{ label: 'Find in posts', placeholder: 'Words, "side by side", begin*' }}
        />
        {!isAny && (
          <p>
            {Object.keys(params).some((name) => name !== 'in' && params[name])
              ? 'No post matches. Take a word or a filter away.'
              : 'No posts have come yet. They come in files of posts, or with live statements that carry what was written.'}
          </p>
        )}
        {isAny && (
          <PlainTable label="Posts" heads={['When', 'Who', 'Discussion', 'Text']}>
            {list.rows.map((row) => (
              <Post key={row.id} row={row} at={sayInstant(row.at, list.zone, list.now)} />
            ))}
          </PlainTable>
        )}
        {list.next !== null && <Link href={linkTo(POSTS.path, { ...params, cursor: list.next })}>Older</Link>}
      </div>
    </>
  );
}

/** Letters of a text that stand on the page until somebody opens it. */
const SHORT = 300;

function Post({ row, at }: { row: PostRow; at: string }) {
  const { person, learner_id, name, course, item, text, words, answered_name, in_reply_to } = row;
  return (
    <tr className={classes.item}>
      <td>{at}</td>
      <td>
        {person === null ? (
          <>
            <bdi>{name}</bdi> <small>staff</small>
          </>
        ) : (
          <PersonLink learnerId={learner_id} name={name} />
        )}
        {in_reply_to !== null && (
          <small>
            {answered_name === null ? (
              'answers a post that is not here'
            ) : (
              <>
                to <bdi>{answered_name}</bdi>
              </>
            )}
          </small>
        )}
      </td>
      <td>
        {item ?? 'the course’s own'}
        <small>{course}</small>
      </td>
      <td className={classes.words} dir="auto">
        {text === '' ? (
          <span className={classes.soft}>{sayCount(words, 'word')}, read by staff alone</span>
        ) : text.length <= SHORT ? (
          text
        ) : (
          <details>
            <summary>
              {[...text].slice(0, SHORT).join('')}… <span className={classes.soft}>{sayCount(words, 'word')}</span>
            </summary>
            {text}
          </details>
        )}
      </td>
    </tr>
  );
}
