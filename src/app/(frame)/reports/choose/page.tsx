import { TableTd, TableTr, Table, TableTbody, TableTh, TableThead } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import {
  AVERAGES,
  ONLY,
  PER_WORDS,
  REPORT_PERIODS,
  ROWS_PER,
  type Only,
  type RowsPer,
} from '@/core/reports/definition';
import { sayCount } from '@/core/time/words';
import { segmentChoices } from '@/server/courses/reads';
import { namesOfKind } from '@/server/courses/segments';
import { LEARNERS } from '@/server/people/learner-list';
import { columnsShown, fits, mayBeFor } from '@/server/reports/columns';
import { REPORT_PARAMS, filterOf } from '@/server/reports/link';
import { choosePage } from '@/server/reports/page';
import type { Preview } from '@/server/reports/preview';
import { isLong } from '@/server/reports/rows-answer';
import { controlsOf, sentencesOf, type Params } from '@/server/request/list';
import { openFrame, orNotFound, type SearchParams } from '../../../_frame/page-context';
import { choicesOf, type Choice } from '../../../_frame/choices';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { ParamSelect } from '../../../_list/param-select';
import classes from '../reports.module.css';
import { ColumnChooser } from './column-chooser';
import { ItemChooser } from './item-chooser';
import { ReportActions } from './report-actions';
import { ReportDays } from './report-days';

export const metadata: Metadata = { title: 'A report' };

const PATH = '/reports/choose';
const AUDIENCE_CHOICES = [
  { value: 'staff', label: 'staff alone' },
  { value: 'outside', label: 'the learner, a family or an employer' },
];
const ORDERS = [
  { value: 'organisation', label: 'by organisation' },
  { value: '-days_quiet', label: 'the longest quiet first' },
  { value: '-drift', label: 'the furthest off course first' },
  { value: '-overdue', label: 'the most overdue first' },
  { value: 'enrolled', label: 'by enrolment' },
];

/** A report while it is chosen: whom, a row for each what, which columns and days; its first rows beside. */
export default async function ChoosePage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const params: Params = {
    ...filterOf(frame.params),
    ...Object.fromEntries(REPORT_PARAMS.map((name) => [name, frame.params[name]])),
    in: frame.params.in,
    // Days that move, chosen last, go before days of one's own.
    ...(frame.params.days && { from: undefined, to: undefined }),
    per: ROWS_PER.find((per) => per === frame.params.per) ?? 'enrolment',
    for: frame.params.for === 'outside' ? 'outside' : 'staff',
  };
  const [page, parts] = await Promise.all([
    orNotFound(choosePage(runtime, viewer, params)),
    segmentChoices(runtime, viewer),
  ]);
  const per = params.per as RowsPer;
  const { report, preview, values } = page;
  const offered = columnsShown().filter(
    (column) => fits(per, column) && mayBeFor(params.for === 'outside' ? 'outside' : 'staff', column),
  );
  const selects = selectsOf(per);
  const long = (['pdf', 'xlsx'] as const).flatMap((format) =>
    (['table', 'pages'] as const)
      .filter((layout) =>
        isLong(format, layout, { learners: preview?.learners ?? 0, per, heads: preview?.heads.length ?? 0 }),
      )
      .map((layout) => `${format} ${layout}`),
  );
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <div className={classes.head}>
          <h1>
            <bdi>{report?.name ?? 'New report'}</bdi>
          </h1>
          <span className={classes.soft}>{sayCountOf(preview, page.people)}</span>
        </div>
        <ReportActions
          // Saved, it is another revision.
          key={`${report?.id ?? ''}/${report?.revision ?? 0}`}
          report={
            report && !report.isReady
              ? {
                  id: Number(report.id),
                  name: report.name,
                  revision: report.revision,
                  isOwn: report.isOwn,
                  shared: report.shared.map(({ id }) => id),
                }
              : null
          }
          name={report?.isReady ? report.name : ''}
          params={params}
          colleagues={page.colleagues}
          people={page.receivers}
          isSound={page.fault === null}
          long={long}
        />
        <FilterBar
          path={PATH}
          params={params}
          sentences={sentencesOf(LEARNERS, params)}
          controls={controlsOf(LEARNERS, {
            courses: namesOfKind(parts, 'course'),
            groups: namesOfKind(parts, 'group'),
            organisations: namesOfKind(parts, 'organisation'),
          })}
          search={{ label: 'Whom: any part of name, id, e-mail or phone', placeholder: 'Name, id, e-mail or phone' }}
        />
        {page.left.length > 0 && <p className={classes.note}>Left out: {page.left.join('; ')}.</p>}
        {preview && preview.gone.length > 0 && (
          <p className={classes.note} role="status">
            No longer there, and left out: {preview.gone.join(', ')}.
          </p>
        )}
        <div className={classes.choosing}>
          <div className={classes.choices}>
            <div className={classes.pairs}>
              {selects.map((select) => (
                <div key={select.name} className={select.isWide ? `${classes.row} ${classes.both}` : classes.row}>
                  <h2>{select.label}</h2>
                  <ParamSelect
                    path={PATH}
                    params={params}
                    label={select.label}
                    name={select.name}
                    none={select.none}
                    choices={select.choices}
                  />
                </div>
              ))}
            </div>
            <ReportDays params={params} />
            {page.items.length > 0 && per !== 'learner' && per !== 'session' && (
              <ItemChooser items={page.items} chosen={(values.items as string[] | undefined) ?? []} params={params} />
            )}
            <ColumnChooser columns={offered} chosen={values.columns as string[]} params={params} />
          </div>
          <div>
            {page.fault !== null && (
              <p role="alert" className={classes.note}>
                {(values.columns as string[]).length === 0
                  ? 'No column is chosen: add one at the left.'
                  : `This cannot be shown: ${page.fault}.`}{' '}
                <Link href={linkTo('/reports', { in: params.in })}>All reports</Link>
              </p>
            )}
            {preview && <PreviewTable preview={preview} more={linkTo(PATH, { ...params, rows: 'more' })} />}
          </div>
        </div>
      </div>
    </>
  );
}

interface Select {
  label: string;
  /** The parameter of the link that it sets. */
  name: string;
  none?: string;
  choices: Choice[];
  isWide?: boolean;
}

/** One of some, by what a row is. */
function selectsOf(per: RowsPer): Select[] {
  const only = (Object.keys(ONLY) as Only[]).filter((name) => ONLY[name].per === per);
  const averages = AVERAGES.map((value) => ({ value, label: `of the ${value}` }));
  return [
    { label: 'A row for', name: 'per', choices: choicesOf(PER_WORDS), isWide: true },
    {
      label: 'Only those',
      name: 'only',
      none: 'all of them',
      choices: only.map((value) => ({ value, label: ONLY[value].says })),
      isWide: true,
    },
    { label: 'Days', name: 'days', none: 'all there are', choices: choicesOf(REPORT_PERIODS) },
    { label: 'Order', name: 'sort', none: 'by name', choices: ORDERS },
    { label: 'Averages', name: 'avg', none: 'none', choices: per === 'learner' ? [] : averages },
    { label: 'For', name: 'for', choices: AUDIENCE_CHOICES, isWide: true },
  ].filter(({ choices }) => choices.length > 0);
}

function sayCountOf(preview: Preview | null, people: number | null): string {
  if (!preview) return '';
  const learners = sayCount(preview.learners, 'learner');
  return people === null ? learners : `${learners} of ${people} chosen one by one`;
}

function cellClass({ isFigure, isLong }: Preview['heads'][number]): string | undefined {
  return isFigure ? classes.figure : isLong ? classes.long : undefined;
}

function PreviewTable({ preview: { heads, lines, goesOn }, more }: { preview: Preview; more: string }) {
  if (lines.length === 0) return <p>Nobody and nothing is in it. Look at a wider part, or take a filter away.</p>;
  return (
    <>
      <div className={classes.scroll} tabIndex={0} role="group" aria-label="First rows">
        <Table className={classes.preview}>
          <TableThead>
            <TableTr>
              {heads.map(({ name, title, says, isFigure }) => (
                <TableTh key={name} scope="col" title={says} className={isFigure ? classes.figure : undefined}>
                  {title}
                </TableTh>
              ))}
            </TableTr>
          </TableThead>
          <TableTbody>
            {lines.map((cells, row) => (
              <TableTr key={row}>
                {cells.map((cell, at) => (
                  <TableTd key={heads[at].name} className={cellClass(heads[at])}>
                    <bdi>{cell}</bdi>
                  </TableTd>
                ))}
              </TableTr>
            ))}
          </TableTbody>
        </Table>
      </div>
      {goesOn && (
        <p className={classes.soft}>
          The first {lines.length} rows{lines.length < 100 && <Link href={more}>, show more</Link>}. A file has all of
          them.
        </p>
      )}
    </>
  );
}
