import type { Metadata } from 'next';
import Link from 'next/link';
import { GOOD_NEWS_WORDS, praiseFor } from '@/core/good-news/good-news';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { GOOD_NEWS_LIST, goodNews } from '@/server/good-news/good-news-list';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { Outputs } from '../../../_list/outputs';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../watch.module.css';
import { NewsTable } from './news-table';

export const metadata: Metadata = { title: 'Good news' };

/** Rows on a page. */
const SHOWN = '50';

/** What went well of late: so that contact is not only about trouble. */
export default async function GoodNewsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, GOOD_NEWS_LIST);
  const { runtime, viewer } = frame;
  const params = listParams(GOOD_NEWS_LIST, frame.params);
  const asked = { ...askedOf(GOOD_NEWS_LIST, params), limit: SHOWN, cursor: frame.params.cursor };
  const list = await orNotFound(goodNews(runtime, viewer, asked));
  const here = linkTo(GOOD_NEWS_LIST.path, { ...params, cursor: frame.params.cursor });
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <p>
          <Link href="/watch">Back to the Watch</Link>
        </p>
        <div className={classes.newsHead}>
          <h1>Good news</h1>
          <span className={classes.soft}>
            {list.total} {params.from || params.to ? 'in these days' : 'in the last 28 days'}
          </span>
          <Outputs list="good-news" params={params} />
        </div>
        <FilterBar
          path={GOOD_NEWS_LIST.path}
          params={params}
          sentences={sentencesOf(GOOD_NEWS_LIST, params)}
          controls={controlsOf(GOOD_NEWS_LIST, {})}
        />
        {list.rows.length === 0 ? (
          <p>
            Nothing in these days. What counts: a course or a unit finished, coming back and staying, drift that fell by
            25 in two weeks, a best score, five sessions in a row again, a first post.
          </p>
        ) : (
          <NewsTable
            rows={list.rows.map((row) => ({
              key: row.key,
              learner: row.learnerId,
              learnerId: row.learner_id,
              name: row.name,
              day: sayDay(row.on, dayOf(list.now, list.zone)),
              course: row.courseTitle,
              what: GOOD_NEWS_WORDS[row.what],
              says: row.says,
              praise: praiseFor(row.what, { course: row.courseTitle, evidence: row.evidence }),
            }))}
            here={here}
          />
        )}
        {list.next !== null && <Link href={linkTo(GOOD_NEWS_LIST.path, { ...params, cursor: list.next })}>Older</Link>}
      </div>
    </>
  );
}
