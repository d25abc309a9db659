import { Progress, TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { PER_WORDS } from '@/core/reports/definition';
import { sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { DOES_IT_WORK } from '@/server/contact/does-it-work';
import { reportsOf, type ReportShown } from '@/server/reports/kept';
import { paramsOf } from '@/server/reports/link';
import { isStaffMember } from '@/core/staff/rights';
import { schedulesPage } from '@/server/reports/schedules';
import { recentRuns, type RunShown } from '@/server/reports/runs';
import { PlainTable } from '@/ui/plain-table';
import { openFrame, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { Refresher } from '../../_frame/refresher';
import { TopBar } from '../../_frame/top-bar';
import { linkTo } from '../../_list/list-link';
import { CancelMade } from './report-buttons';
import { SentByItself } from './sent-by-itself';
import classes from './reports.module.css';
import '@mantine/core/styles/Progress.layer.css';

export const metadata: Metadata = { title: 'Reports' };

/** Where a new report begins. */
const NEW = { per: 'enrolment', cols: 'name,course,progress,on_graded_work,overdue,last_access', for: 'staff' };

/** The reports that somebody has, those that come ready, and the long ones that are being made. */
export default async function ReportsPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { clock, zone } = runtime;
  const [reports, made, sent] = await Promise.all([
    reportsOf(runtime, viewer),
    recentRuns(runtime, viewer),
    schedulesPage(runtime, viewer),
  ]);
  const kept = reports.filter(({ isReady }) => !isReady);
  const ready = reports.filter(({ isReady }) => isReady);
  const now = clock.now();
  const isMoving = made.some(({ state }) => state === 'waiting' || state === 'running');
  const place = { in: frame.params.in };
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={isMoving ? 1000 : null} />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Reports</h1>
          <Link className={classes.begin} href={linkTo('/reports/choose', { ...NEW, ...place })}>
            New report
          </Link>
        </div>
        {made.length > 0 && (
          <section className={classes.section} id="made">
            <h2>Made for you</h2>
            <p className={classes.soft}>Long ones are made while you do something else, and kept for 14 days.</p>
            <PlainTable label="Made for you" heads={['Report', 'Asked for', 'State']} last="Actions">
              {made.map((run) => (
                <MadeRow key={run.id} run={run} now={now} zone={zone} />
              ))}
            </PlainTable>
          </section>
        )}
        <section className={classes.section}>
          <h2>Yours, and shared with you</h2>
          {kept.length === 0 ? (
            <p className={classes.soft}>
              None yet. Begin a new one, or open one below, change it and save it under a name.
            </p>
          ) : (
            <PlainTable label="Your reports" heads={['Report', 'A row for', 'Whose', 'Last run']}>
              {kept.map((report) => (
                <TableTr key={report.id}>
                  <TableTd>
                    <ReportLink report={report} />
                  </TableTd>
                  <TableTd>{PER_WORDS[report.definition.per]}</TableTd>
                  <TableTd>{sayShared(report)}</TableTd>
                  <TableTd>{report.lastRunAt === null ? 'never' : sayInstant(report.lastRunAt, zone, now)}</TableTd>
                </TableTr>
              ))}
            </PlainTable>
          )}
        </section>
        {isStaffMember(viewer) && <SentByItself sent={sent} now={now} zone={zone} />}
        <section className={classes.section}>
          <h2>Ready to use</h2>
          <ul className={classes.ready}>
            {ready.map((report) => (
              <li key={report.id}>
                <ReportLink report={report} place={place} />
                <span className={classes.soft}>{report.says}</span>
              </li>
            ))}
            {isStaffMember(viewer) && (
              <li>
                <Link href={linkTo(DOES_IT_WORK.path, place)}>Does it work?</Link>
                <span className={classes.soft}>
                  What came of calls, messages and meetings, with the like beside.{' '}
                  <a href={linkTo(`${DOES_IT_WORK.path}/report`, place)}>PDF</a>
                </span>
              </li>
            )}
          </ul>
        </section>
      </div>
    </>
  );
}

/** Opens a report as it is kept; one that comes ready is of the part that is looked at. */
function ReportLink({ report, place }: { report: ReportShown; place?: { in?: string } }) {
  const params = paramsOf(report.definition, report.id);
  return (
    <Link href={linkTo('/reports/choose', { ...params, ...(params.in === undefined ? place : {}) })}>
      <bdi>{report.name}</bdi>
    </Link>
  );
}

function sayShared({ isOwn, owner, shared }: ReportShown): string {
  if (!isOwn) return `${owner ?? 'a program'}’s, shared with you`;
  return shared.length === 0 ? 'yours' : `yours, shared with ${shared.map(({ name }) => name).join(', ')}`;
}

const STATES: Record<RunShown['state'], string> = {
  waiting: 'waiting',
  running: 'being made',
  done: 'ready',
  failed: 'could not be made',
  cancelled: 'cancelled',
};

function MadeRow({ run, now, zone }: { run: RunShown; now: number; zone: string }) {
  const { id, name, format, state, done, total, error, createdAt, until } = run;
  const isMoving = state === 'waiting' || state === 'running';
  return (
    <TableTr>
      <TableTd>
        <bdi>{name}</bdi> · {format.toUpperCase()}
      </TableTd>
      <TableTd>{sayInstant(createdAt, zone, now)}</TableTd>
      <TableTd>
        {STATES[state]}
        {state === 'running' && (
          <>
            {` · ${done} of ${total}`}
            <Progress
              value={total === 0 ? 0 : (100 * done) / total}
              size="sm"
              w={140}
              aria-label={`${done} of ${total} learners`}
            />
          </>
        )}
        {error !== null && <div className={classes.soft}>{error}</div>}
      </TableTd>
      <TableTd>
        {isMoving && <CancelMade id={id} />}
        {state === 'done' && (
          <a href={`/reports/made/${id}`} title={`Kept until ${sayDay(dayOf(until, zone))}`}>
            Download
          </a>
        )}
      </TableTd>
    </TableTr>
  );
}
