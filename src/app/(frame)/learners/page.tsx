import { labelOf } from '@/core/field-labels';
import type { Metadata } from 'next';
import Link from 'next/link';
import { packRows } from '@/core/rows';
import { dayOf } from '@/core/time/zone';
import { findSegment, segmentChoices } from '@/server/courses/reads';
import { namesOfKind } from '@/server/courses/segments';
import { InvalidInput, NotFound } from '@/server/request/input';
import { CELLS } from '@/server/people/learner-columns';
import { LEARNERS, chosenColumns, countLearners, learnerList } from '@/server/people/learner-list';
import {
  askedOf,
  columnNames,
  controlsOf,
  listParams,
  readColumns,
  sentencesOf,
  type Column,
  type Params,
} from '@/server/request/list';
import { filterOf } from '@/server/reports/link';
import { NewCaseload } from '../caseloads/caseload-buttons';
import { savedViews } from '@/server/people/saved-views';
import { FilterBar } from '../../_list/filter-bar';
import type { LearnerRow } from '@/data/people/learners';
import { linkTo } from '../../_list/list-link';
import lists from '../../_list/list.module.css';
import { openFrame, type FrameContext, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';
import { ColumnMenu } from './column-menu';
import { LearnerTable } from './learner-table';
import { SavedViews } from './saved-views';
import classes from './learners.module.css';
import { Outputs } from '../../_list/outputs';

export const metadata: Metadata = { title: 'Learners' };

/** Rows on a page; `endless` goes on as one scrolls. */
const SIZES = ['10', '25', '50', '100', 'endless'] as const;
const NAMES = columnNames(LEARNERS);
/** The report that the list begins. */
const REPORT = {
  per: 'learner',
  cols: 'name,phone,email,organisation,courses,last_access,days_quiet,last_contact',
  for: 'staff',
};

/** Rows asked for at a time. */
function sizeOf({ limit }: Params): { size: number; endless: boolean } {
  const chosen = SIZES.find((size) => size === limit) ?? '25';
  return chosen === 'endless' ? { size: 100, endless: true } : { size: Number(chosen), endless: false };
}

/** The list, or what is wrong with the link: a saved view may name what is gone by now. */
async function readList(frame: FrameContext, params: Params, page: number) {
  const { size } = sizeOf(params);
  try {
    const list = await learnerList(
      frame.runtime,
      frame.viewer,
      { ...askedOf(LEARNERS, params), limit: String(size) },
      (page - 1) * size,
    );
    return { ...list, fault: null };
  } catch (error) {
    const nothing = { rows: [], total: 0, view: frame.view, next: null };
    if (error instanceof NotFound) return { ...nothing, fault: await whatIsGone(frame, params) };
    if (!(error instanceof InvalidInput)) throw error;
    return {
      ...nothing,
      fault: error.errors.map((error) => `“${labelOf(error.field)}” ${error.message}`).join('; '),
    };
  }
}

async function whatIsGone({ runtime, viewer }: FrameContext, params: Params): Promise<string> {
  const { course, group, organisation } = askedOf(LEARNERS, params);
  for (const [word, names] of [
    ['course', { course }],
    ['group', { course, group }],
    ['organisation', { organisation }],
  ] as const) {
    const asked = Object.values(names).every((name) => name !== undefined);
    if (asked && !(await findSegment(runtime, viewer, names)))
      return `the ${word} ${names[word as keyof typeof names]} is gone`;
  }
  return 'a course, group or organisation that is gone';
}

export default async function LearnersPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const params = listParams(LEARNERS, { ...frame.params, as_of: frame.asOf ?? undefined });
  const page = Math.max(1, Math.floor(Number(frame.params.page)) || 1);
  const [list, parts, whole, kept, views] = await Promise.all([
    readList(frame, params, page),
    segmentChoices(runtime, viewer),
    countLearners(runtime, viewer),
    chosenColumns(runtime, viewer),
    savedViews(runtime, viewer),
  ]);
  const columns = params.columns ? readColumns(LEARNERS, params.columns) : kept;
  const { size, endless } = sizeOf(params);
  const link = (changes: Record<string, string | null>) => linkTo('/learners', { ...params, ...changes });
  const here = link({ page: page > 1 ? String(page) : null });
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <div className={classes.head}>
          <h1>Learners</h1>
          <span className={classes.soft}>
            {list.total} of {whole}
          </span>
          <span className={classes.actions}>
            <NewCaseload rule={linkTo('', { ...filterOf(params), in: params.in }).slice(1)} label="Caseload" />
            <SavedViews views={views} query={here.split('?')[1] ?? ''} />
            <ColumnMenu
              columns={NAMES.map((name) => ({ name, title: LEARNERS.columns[name].title }))}
              chosen={columns}
              link={{ ...params, columns: null }}
            />
            <Outputs list="learners" params={{ ...params, limit: null, columns: columns.join(',') }}>
              <Link href={linkTo('/lists/learners/call-sheet', { ...params, limit: null })}>Call sheet</Link>
              <Link href={linkTo('/reports/choose', { ...filterOf(params), in: params.in, ...REPORT })}>Report</Link>
            </Outputs>
          </span>
        </div>
        <FilterBar
          path={LEARNERS.path}
          params={params}
          sentences={sentencesOf(LEARNERS, params)}
          controls={controlsOf(LEARNERS, {
            courses: namesOfKind(parts, 'course'),
            groups: namesOfKind(parts, 'group'),
            organisations: namesOfKind(parts, 'organisation'),
          })}
          search={{
            label: 'Narrow by any part of name, id, e-mail or phone',
            placeholder: 'Name, id, e-mail or phone',
          }}
        />
        {list.fault && (
          <p role="alert" className={lists.fault}>
            This link asks for something the list does not know: {list.fault}. Take that filter away, or{' '}
            <Link href={linkTo('/learners', { in: params.in })}>show everybody</Link>.
          </p>
        )}
      </div>
      {list.rows.length === 0 ? (
        !list.fault && (
          <div className={frameClasses.page}>
            <p>
              {whole === 0
                ? 'Nobody is enrolled yet. A lead brings in the roster, or adds learners, under Set-up.'
                : 'Nobody matches. Take a filter away, or look at a wider part of the caseload.'}
            </p>
          </div>
        )
      ) : (
        <LearnerTable
          // A new list begins anew: cursor, selection and what came by scrolling.
          key={here}
          lines={packRows(list.rows.map((row) => LEARNERS.line(row, { now: list.view.now, zone: runtime.zone })))}
          cells={CELLS.map((cell) =>
            cell
              .filter((name) => columns.includes(name))
              .map((name) => {
                const { title, sort, as }: Column<LearnerRow> = LEARNERS.columns[name];
                return { name, place: NAMES.indexOf(name), title, sort, as };
              }),
          ).filter((cell) => cell.length > 0)}
          params={params}
          phonePlace={NAMES.indexOf('phone')}
          next={list.next}
          offset={(page - 1) * size}
          total={list.total}
          endless={endless}
          here={here}
          today={dayOf(runtime.clock.now(), runtime.zone)}
          now={list.view.now}
          zone={runtime.zone}
          asOf={frame.asOf}
        />
      )}
      <nav className={classes.pages} aria-label="Pages">
        {!endless && page > 1 && <Link href={link({ page: String(page - 1) })}>Previous</Link>}
        {!endless && list.total > size && (
          <span>
            {(page - 1) * size + 1} to {Math.min(page * size, list.total)} of {list.total}
          </span>
        )}
        {!endless && page * size < list.total && <Link href={link({ page: String(page + 1) })}>Next</Link>}
        <span className={classes.sizes}>
          Rows:{' '}
          {SIZES.map((size) => (
            <Link
              key={size}
              href={link({ limit: size })}
              aria-current={size === (params.limit ?? '25') ? 'true' : undefined}
            >
              {size}
            </Link>
          ))}
        </span>
      </nav>
    </>
  );
}
