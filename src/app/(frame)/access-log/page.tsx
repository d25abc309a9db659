import type { Metadata } from 'next';
import Link from 'next/link';
import { sayAbout, plural } from '@/core/time/words';
import { dateOfDay, dayFromDate, dayOf, startOfDay } from '@/core/time/zone';
import { coursesInLog, coursesWithoutLog, unitsOf } from '@/server/access/reads';
import { segmentChoices } from '@/server/courses/reads';
import { namesOfKind } from '@/server/courses/segments';
import { namesOf } from '@/server/people/reads';
import { actionWords } from '@/server/imports/reads';
import { fullName } from '@/core/people/name';
import { countOpenLog, openLog, readLog, writeCursor, type OpenLog } from '@/server/access/access-log';
import { ACCESS_LOG, logLine } from '@/server/access/log-list';
import { askedOf, controlsOf, listParams, sentencesOf, type Params, type Sentence } from '@/server/request/list';
import { incompleteDays } from '@/server/feed/feed';
import { InvalidInput, NotFound } from '@/server/request/input';
import { sayPeriod } from '@/server/request/period';
import { LogIncomplete } from '../../_frame/incomplete';
import { linkTo } from '../../_list/list-link';
import { openFrame, type FrameContext, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';
import { ExportMenu } from './export-menu';
import { Histogram } from './histogram';
import { PERIOD_CHOICES } from '../../_frame/periods';
import { JumpTo } from './jump-to';
import { LogFilters } from './log-filters';
import { LogTable } from './log-table';
import lists from '../../_list/list.module.css';
import classes from './access-log.module.css';

export const metadata: Metadata = { title: 'Access log' };

/** Rows on a page, and as many again each time one goes on. */
const LOG_PAGE = 100;

/** The log asked for, or what is wrong with the link. */
async function open(frame: FrameContext, params: Params): Promise<{ log: OpenLog } | { fault: string }> {
  try {
    return { log: await openLog(frame.runtime, frame.viewer, askedOf(ACCESS_LOG, params)) };
  } catch (error) {
    if (error instanceof InvalidInput) return { fault: error.message };
    if (error instanceof NotFound)
      return { fault: `${error.message.replace(' was found here.', '')} is there, or yours to see` };
    throw error;
  }
}

/** Where the page begins: at a cursor, or at the end of a date. */
function beginAt({ runtime, params }: FrameContext): { cursor?: string; newer: boolean } {
  const day = dayFromDate(params.jump ?? '');
  if (day !== null) return { cursor: writeCursor({ at: startOfDay(day + 1, runtime.zone), id: 0 }), newer: false };
  return { cursor: params.cursor, newer: params.newer === 'yes' };
}

async function readPage(frame: FrameContext, log: OpenLog) {
  const begin = beginAt(frame);
  try {
    return await readLog(frame.runtime, log, { limit: LOG_PAGE, ...begin });
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return readLog(frame.runtime, log, { limit: LOG_PAGE });
  }
}

/** What the filters that name something by its id call it. */
async function labelsOf({ runtime, viewer }: FrameContext, { filter, item }: OpenLog) {
  const [learner] = filter.learnerId === undefined ? [] : await namesOf(runtime, viewer, [filter.learnerId]);
  return { learner: learner && fullName(learner), item: item?.title };
}

/** The period, which three parameters make together, as one sentence. */
function sayNarrowed({ period, from, to }: Params, says: string | null): Sentence[] {
  if (!period && !from && !to) return [];
  const sentence = says === null ? 'Period' : says[0].toUpperCase() + says.slice(1);
  return [{ says: sentence, clears: ['period', 'from', 'to'], turned: null }];
}

export default async function AccessLogPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, view } = frame;
  const { zone } = runtime;
  const params = listParams(ACCESS_LOG, { ...frame.params, as_of: frame.asOf ?? undefined });
  const opened = await open(frame, params);
  const link = (changes: Record<string, string | null>) => linkTo('/access-log', { ...params, ...changes });
  const log = 'log' in opened ? opened.log : null;
  const [parts, units, words] = await Promise.all([
    segmentChoices(runtime, frame.viewer),
    log?.view.segment.courseId === undefined
      ? []
      : coursesInLog(runtime, log.view).then((ids) => unitsOf(runtime, ids)),
    coursesInLog(runtime, log?.view ?? view).then((ids) => actionWords(runtime, ids)),
  ]);
  const plain = (values: readonly string[]) => values.map((value) => ({ value, label: value.replaceAll('_', ' ') }));
  const filters = (labels: { learner?: string; item?: string }, period: string | null) => (
    <LogFilters
      path={ACCESS_LOG.path}
      params={params}
      sentences={[...sentencesOf(ACCESS_LOG, params, labels), ...sayNarrowed(params, period)]}
      controls={controlsOf(ACCESS_LOG, {
        courses: namesOfKind(parts, 'course'),
        groups: namesOfKind(parts, 'group'),
        organisations: namesOfKind(parts, 'organisation'),
        units: plain(units.map(({ title }) => title)),
        actions: plain(words),
        periods: PERIOD_CHOICES,
      })}
    />
  );
  if (!log) {
    return (
      <>
        <TopBar frame={frame} />
        <div className={frameClasses.wide}>
          <h1>Access log</h1>
          {filters({}, null)}
          <p role="alert" className={lists.fault}>
            This link asks for something the log does not know: {'fault' in opened && opened.fault}. Take that filter
            away, or <Link href={linkTo('/access-log', { in: params.in })}>show everything</Link>.
          </p>
        </div>
      </>
    );
  }
  const { from, to } = log.filter;
  const narrowed = from !== undefined || params.to !== undefined || params.period !== undefined;
  const whole = { ...log, filter: { ...log.filter, from: undefined, to: view.asOf === null ? undefined : to } };
  const [page, count, around, labels, gaps, gone] = await Promise.all([
    readPage(frame, log),
    countOpenLog(runtime, log),
    narrowed ? countOpenLog(runtime, whole) : null,
    labelsOf(frame, log),
    coursesInLog(runtime, log.view).then((ids) => incompleteDays(runtime, ids, {})),
    coursesInLog(runtime, log.view).then((ids) => coursesWithoutLog(runtime, ids)),
  ]);
  const counts = around ?? count;
  const period = narrowed ? sayPeriod({ from, to }, zone, view.now) : null;
  const here = frame.params.cursor || frame.params.jump;
  const learner = params.learner ?? null;
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.wide}>
        <div className={classes.head}>
          <h1>Access log</h1>
          <span className={classes.soft}>
            {sayAbout(count.total, count.about)} {plural(count.total, 'event')}
          </span>
          <span className={classes.actions}>
            {learner && (
              <Link href={linkTo(`/learners/${encodeURIComponent(learner)}`, { as_of: frame.asOf })}>
                {labels.learner}’s page
              </Link>
            )}
            <Link href={link({ fold: params.fold === 'no' ? null : 'no' })} scroll={false}>
              {params.fold === 'no' ? 'Fold into visits' : 'Show every event'}
            </Link>
            <JumpTo params={params} last={dateOfDay(dayOf(view.now, zone))} />
            <ExportMenu params={params} total={count.total} about={count.about} />
          </span>
        </div>
        {filters(labels, period)}
        <LogIncomplete runtime={runtime} view={log.view} period={{ from, to }} />
        {gone.length > 0 && (
          <p className={classes.soft} role="status">
            No longer kept: the events of {gone.slice(0, 5).join(', ')}
            {gone.length > 5 && ` and ${gone.length - 5} more courses`}.
          </p>
        )}
        {page.isArchived && (
          <p className={classes.soft} role="status">
            Some of these events are in an archive: opening them takes longer.
          </p>
        )}
        {page.broken.length > 0 && (
          <p role="alert" className={lists.fault}>
            An archive cannot be read, and its events are missing here: {page.broken.slice(0, 5).join('; ')}
            {page.broken.length > 5 && ` and ${page.broken.length - 5} more`}. A lead puts its files back from a backup.
          </p>
        )}
        {counts.days.length > 0 && (
          <Histogram
            days={counts.days}
            about={counts.about}
            chosen={
              narrowed
                ? [
                    from === undefined ? counts.days[0].day : dayOf(from, zone),
                    to === undefined ? counts.days.at(-1)!.day : dayOf(to - 1, zone),
                  ]
                : null
            }
            params={params}
            today={dayOf(view.now, zone)}
            gaps={gaps}
          />
        )}
      </div>
      {here && (
        <nav className={classes.pages} aria-label="Newer">
          {page.newer ? (
            <>
              <Link href={link({ cursor: page.newer, newer: 'yes' })}>Newer events</Link>
              <Link href={link({})}>The newest</Link>
            </>
          ) : (
            <span className={classes.soft}>These are the newest.</span>
          )}
        </nav>
      )}
      {page.rows.length === 0 ? (
        <div className={frameClasses.page}>
          <p>
            {narrowed || Object.keys(askedOf(ACCESS_LOG, params)).length > 0 || here
              ? 'No event matches. Take a filter away, or choose a longer period.'
              : 'No event has come in yet. A lead brings in an access log under Set-up, or connects a source.'}
          </p>
        </div>
      ) : (
        <LogTable
          key={link({ cursor: frame.params.cursor ?? null, jump: frame.params.jump ?? null })}
          lines={page.rows.map(logLine)}
          older={page.older}
          params={params}
          columns={Object.values(ACCESS_LOG.columns).map(({ title }) => title)}
          fold={params.fold !== 'no'}
          zone={zone}
          now={view.now}
        />
      )}
    </>
  );
}
