import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { GOOD_NEWS_WORDS, praiseFor } from '@/core/good-news/good-news';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { GOOD_NEWS_LIST, goodNews, type GoodNewsRow } from '@/server/good-news/good-news-list';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { Outputs } from '../../../_list/outputs';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../watch.module.css';
import { PraiseButton } from './praise-button';

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
          <PlainTable label="Good news" heads={['Day', 'Learner', 'Course', 'What']} last="Action">
            {list.rows.map((row) => (
              <News key={row.key} row={row} today={dayOf(list.now, list.zone)} here={here} />
            ))}
          </PlainTable>
        )}
        {list.next !== null && <Link href={linkTo(GOOD_NEWS_LIST.path, { ...params, cursor: list.next })}>Older</Link>}
      </div>
    </>
  );
}

function News({ row, today, here }: { row: GoodNewsRow; today: number; here: string }) {
  return (
    <TableTr>
      <TableTd>{sayDay(row.on, today)}</TableTd>
      <TableTd>
        <PersonLink learnerId={row.learner_id} name={row.name} />
      </TableTd>
      <TableTd>{row.courseTitle}</TableTd>
      <TableTd>
        <strong>{GOOD_NEWS_WORDS[row.what]}</strong> <span className={classes.soft}>{row.says}</span>
      </TableTd>
      <TableTd>
        <PraiseButton
          learner={row.learnerId}
          name={row.name}
          praise={praiseFor(row.what, { course: row.courseTitle, evidence: row.evidence })}
          here={here}
        />
      </TableTd>
    </TableTr>
  );
}
