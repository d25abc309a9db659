import type { Metadata } from 'next';
import Link from 'next/link';
import { packRows } from '@/core/rows';
import { sayCount } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { namesOfKind } from '@/server/courses/segments';
import { courseItems, segmentChoices } from '@/server/courses/reads';
import { askedOf, controlsOf, listParams, sentencesOf, type Params } from '@/server/request/list';
import { WORK_DUE, workDue } from '@/server/work/work-due-list';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../courses.module.css';
import { PeriodForm } from '../period-form';
import { WorkDueList } from './work-due-list';
import { Outputs } from '../../../_list/outputs';

export const metadata: Metadata = { title: 'Work due' };

const FIRST = '100';

export default async function WorkDuePage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, WORK_DUE);
  const { runtime, viewer } = frame;
  // What is overdue, until somebody asks for something else.
  const asked: Params = { state: 'any_overdue', ...frame.params };
  if (asked.state === 'any') delete asked.state;
  const params = listParams(WORK_DUE, asked);
  const [list, choices] = await Promise.all([
    orNotFound(workDue(runtime, viewer, { ...askedOf(WORK_DUE, params), limit: FIRST })),
    segmentChoices(runtime, viewer),
  ]);
  const items = params.course ? await courseItems(runtime, viewer, params.course) : [];
  const lines = list.rows.map((row) => WORK_DUE.line(row, list));
  const names = {
    item: items.find(({ item_id }) => item_id === params.item)?.title,
    learner: lines.find(({ learnerId }) => learnerId === params.learner)?.name,
  };
  const offers = {
    courses: namesOfKind(choices, 'course'),
    groups: namesOfKind(choices, 'group'),
    organisations: namesOfKind(choices, 'organisation'),
    items: items.map(({ item_id, title }) => ({ value: item_id, label: title })),
  };
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <CourseTabs />
        <div className={classes.head}>
          <h1>Work due</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'assignment')}
            {params.state === 'any_overdue' && ' overdue'}
            {!params.sort && ', the newest first'}
          </span>
          {params.state && <Link href={linkTo(WORK_DUE.path, { ...params, state: 'any' })}>Every state</Link>}
          <Outputs list="work-due" params={params}>
            <Link href={linkTo('/lists/work-due/sheets', params)}>One page for each learner</Link>
          </Outputs>
        </div>
        <FilterBar
          path={WORK_DUE.path}
          params={params}
          sentences={sentencesOf(WORK_DUE, params, names).filter(
            // What is shown without asking is no filter to clear.
            ({ clears }) => frame.params.state !== undefined || !clears.includes('state'),
          )}
          controls={controlsOf(WORK_DUE, offers)}
        />
        <details>
          <summary>Due in a period</summary>
          <PeriodForm
            label="Due from"
            verb="Show"
            path={WORK_DUE.path}
            params={{ ...params, from: undefined, to: undefined }}
            from={params.from?.slice(0, 10) ?? ''}
            to={params.to?.slice(0, 10) ?? ''}
          />
        </details>
      </div>
      {list.rows.length === 0 ? (
        <div className={frameClasses.page}>
          <p>
            {params.state === 'any_overdue'
              ? 'Nothing is overdue here: everything past its date is handed in.'
              : 'No item of work is like this.'}
          </p>
        </div>
      ) : (
        <WorkDueList
          key={lines.map(({ enrolmentId, itemNumber }) => `${enrolmentId}/${itemNumber}`).join()}
          lines={packRows(lines)}
          next={list.next}
          total={list.total}
          params={params}
          here={linkTo(WORK_DUE.path, params)}
          today={dayOf(runtime.clock.now(), runtime.zone)}
          zone={runtime.zone}
          now={list.now}
        />
      )}
    </>
  );
}
