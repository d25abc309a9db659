import type { Metadata } from 'next';
import Link from 'next/link';
import { packRows } from '@/core/rows';
import { sayCount } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { namesOfKind } from '@/server/courses/parts';
import { courseItems, lensChoices } from '@/server/courses/reads';
import { askedOf, controlsOf, listParams, sentencesOf, type Params } from '@/server/request/list';
import { OWED_LIST, owed } from '@/server/work/work-due-list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openDeck, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import deckClasses from '../../../_frame/deck.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { PrintButton } from '../../learners/print-button';
import classes from '../courses.module.css';
import { PeriodForm } from '../period-form';
import { OwedList } from './work-due-list';

export const metadata: Metadata = { title: 'Work owed' };

const FIRST = '100';

export default async function OwedPage({ searchParams }: { searchParams: SearchParams }) {
  const deck = await openDeck(searchParams, OWED_LIST);
  const { runtime, viewer } = deck;
  // What is owed now, until somebody asks for something else.
  const asked: Params = { state: 'owed', ...deck.params };
  if (asked.state === 'any') delete asked.state;
  const params = listParams(OWED_LIST, asked);
  const [list, choices] = await Promise.all([
    orNotFound(owed(runtime, viewer, { ...askedOf(OWED_LIST, params), limit: FIRST })),
    lensChoices(runtime, viewer),
  ]);
  const items = params.course ? await courseItems(runtime, viewer, params.course) : [];
  const lines = list.rows.map((row) => OWED_LIST.line(row, list));
  const names = {
    item: items.find(({ item_id }) => item_id === params.item)?.title,
    learner: lines.find(({ learnerId }) => learnerId === params.learner)?.name,
  };
  const file = (format: string) => linkTo('/lists/owed/export', { ...params, format });
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
    items: items.map(({ item_id, title }) => ({ value: item_id, label: title })),
  };
  return (
    <>
      <TopBar deck={deck} />
      <div className={deckClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Work owed</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'piece')}
            {params.state === 'owed' && ' owed now'}
            {!params.sort && ', the newest first'}
          </span>
          {params.state && <Link href={linkTo(OWED_LIST.path, { ...params, state: 'any' })}>Every state</Link>}
          <span className={classes.push}>
            <Link href={linkTo('/lists/owed/sheets', params)}>One page for each learner</Link>
            <PrintButton />
            <a href={file('csv')}>CSV</a> <a href={file('xlsx')}>XLSX</a>
          </span>
        </div>
        <FilterBar
          path={OWED_LIST.path}
          params={params}
          sentences={sentencesOf(OWED_LIST, params, names).filter(
            // What is shown without asking is no filter to clear.
            ({ clears }) => deck.params.state !== undefined || !clears.includes('state'),
          )}
          controls={controlsOf(OWED_LIST, offers)}
        />
        <details>
          <summary>Due in a period</summary>
          <PeriodForm
            label="Due from"
            verb="Show"
            path={OWED_LIST.path}
            params={{ ...params, from: undefined, to: undefined }}
            from={params.from?.slice(0, 10) ?? ''}
            to={params.to?.slice(0, 10) ?? ''}
          />
        </details>
      </div>
      {list.rows.length === 0 ? (
        <div className={deckClasses.page}>
          <p>
            {params.state === 'owed'
              ? 'Nothing is owed here: everything past its date is handed in.'
              : 'No piece of work is like this.'}
          </p>
        </div>
      ) : (
        <OwedList
          key={lines.map(({ enrolmentId, itemNumber }) => `${enrolmentId}/${itemNumber}`).join()}
          lines={packRows(lines)}
          next={list.next}
          total={list.total}
          params={params}
          here={linkTo(OWED_LIST.path, params)}
          today={dayOf(runtime.clock.now(), runtime.zone)}
          zone={runtime.zone}
          now={list.now}
        />
      )}
    </>
  );
}
