import { Progress, Table, TableTbody, TableTd, TableTh, TableThead, TableTr } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayInstant, plural } from '@/core/time/words';
import { FILE_KINDS, FILE_KIND_NAMES } from '@/core/imports/kinds';
import type { ImportRun } from '@/data/imports/import-runs';
import { pastRuns } from '@/server/imports/reads';
import { firstRejects } from '@/server/imports/show';
import { offeredFiles } from '@/server/imports/offered';
import { countUnsettledActions, isNobodyKnown, listAddresses } from '@/server/imports/reads';
import { waitingForNames } from '@/server/imports/waiting';
import type { Runtime } from '@/server/runtime';
import { planningChoices } from '@/server/sessions/planning-form';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { Refresher } from '../../../_frame/refresher';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import { ByItself } from './by-itself';
import { whatIsKnown } from '@/server/drift/what-is-known';
import { KnownList } from './known-list';
import { DropFiles } from './drop-files';
import { OfferedFiles } from './offered-files';
import { WaitingPeople } from './waiting-people';
import classes from './data.module.css';
import '@mantine/core/styles/Progress.layer.css';

export const metadata: Metadata = { title: 'Bring in data' };

const PAGE = 20;
const REJECTS_SHOWN = 10;

export default async function DataPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, params } = frame;
  const page = Math.max(1, Number(params.page) || 1);
  const [{ rows, total }, unsettled, { parts }, offered, waiting, isEmpty, known, addresses] = await Promise.all([
    pastRuns(runtime, frame.viewer, PAGE, (page - 1) * PAGE),
    countUnsettledActions(runtime),
    planningChoices(runtime, frame.viewer),
    offeredFiles(runtime, frame.viewer),
    waitingForNames(runtime, frame.viewer),
    isNobodyKnown(runtime),
    whatIsKnown(runtime, frame.view),
    listAddresses(runtime),
  ]);
  const kinds = FILE_KIND_NAMES.map((name) => ({ name, says: FILE_KINDS[name].says }));
  const moving = rows.some((run) => run.state === 'waiting' || run.state === 'running');
  const newest = page === 1 ? rows[0] : undefined;
  // Rejected rows are a file's own words: they may hold any name.
  const namesHidden = frame.viewer.standInKey !== null;
  const rejects = newest && !namesHidden ? await firstRejects(runtime, newest, REJECTS_SHOWN) : [];
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={moving ? 700 : null} />
      <div className={frameClasses.page}>
        <h1>Bring in data</h1>
        <SetUpTabs />
        {isEmpty && (
          <p>
            A list of participants gives who is quiet, and for how long. A click log gives every visit and what was
            opened; a gradebook or a grid of what is done gives results and progress. Each further file adds to it, in
            whatever order they come.
          </p>
        )}
        {!isEmpty && <KnownList known={known} />}
        <DropFiles timezone={runtime.zone} />
        {offered.length > 0 && (
          <OfferedFiles
            files={offered}
            kinds={kinds}
            courses={parts.filter(({ value }) => !value.includes('/')).map(({ value }) => value)}
            parts={parts}
            zone={runtime.zone}
          />
        )}
        {waiting.length > 0 && !namesHidden && <WaitingPeople people={waiting} />}
        <ByItself addresses={addresses} parts={parts} zone={runtime.zone} now={runtime.clock.now()} />
        {!namesHidden && !isEmpty && (
          <p>
            <a href="/api/v1/one-roster" download>
              Everybody and everything as OneRoster 1.2
            </a>{' '}
            <span className={classes.soft}>
              (people, courses, groups, enrolments, work and results, as a ZIP that other systems read)
            </span>
          </p>
        )}
        {unsettled > 0 && (
          <p className={classes.note}>
            {sayCount(unsettled, 'action word is', 'action words are')} not known yet.{' '}
            <Link href="/set-up/mapping">Say what {plural(unsettled, 'it is', 'they are')}</Link>.
          </p>
        )}
        {newest && newest.rejected > 0 && newest.state === 'done' && !namesHidden && (
          <Rejects run={newest} lines={rejects} />
        )}
        <h2 className={classes.past}>Past imports</h2>
        {rows.length === 0 ? (
          <p>Nothing has been brought in yet.</p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Past imports">
            <Table>
              <TableThead>
                <TableTr>
                  <TableTh>File</TableTh>
                  <TableTh>State</TableTh>
                  <TableTh ta="right">Read</TableTh>
                  <TableTh ta="right">Taken</TableTh>
                  <TableTh ta="right">Already there</TableTh>
                  <TableTh ta="right">Waiting</TableTh>
                  <TableTh ta="right">Rejected</TableTh>
                </TableTr>
              </TableThead>
              <TableTbody>
                {rows.map((run) => (
                  <RunRow key={run.id} run={run} runtime={runtime} />
                ))}
              </TableTbody>
            </Table>
          </div>
        )}
        <nav className={classes.pages} aria-label="Pages">
          {page > 1 && <a href={`?page=${page - 1}`}>Newer</a>}
          {page * PAGE < total && <a href={`?page=${page + 1}`}>Older</a>}
        </nav>
      </div>
    </>
  );
}

function RunRow({ run, runtime }: { run: ImportRun; runtime: Runtime }) {
  const { clock, zone } = runtime;
  const unknown = JSON.parse(run.unknown_columns) as string[];
  const count = (value: number) => <TableTd ta="right">{value.toLocaleString('en-GB')}</TableTd>;
  return (
    <TableTr>
      <TableTd>
        <strong>
          <bdi>{run.file_name}</bdi>
        </strong>
        <div className={classes.soft}>
          {run.kind} · from {run.source} · {sayInstant(run.created_at, zone, clock.now())}
          {run.by ? ` · ${run.by}` : ''}
        </div>
        {(JSON.parse(run.notes) as string[]).map((note) => (
          <div key={note}>{note}</div>
        ))}
        {unknown.length > 0 && <div className={classes.soft}>Columns not used: {unknown.join(', ')}</div>}
      </TableTd>
      <TableTd>
        <strong>{run.state}</strong>
        {run.state === 'running' && <Running run={run} />}
        {run.error && <div className={run.state === 'failed' ? classes.fault : classes.soft}>{run.error}</div>}
      </TableTd>
      {count(run.read)}
      {count(run.accepted)}
      {count(run.duplicate)}
      {count(run.waiting)}
      <TableTd ta="right">
        {run.rejected === 0 ? (
          0
        ) : (
          <a href={`/api/v1/imports/${run.id}/rejects`} download>
            {run.rejected.toLocaleString('en-GB')}
          </a>
        )}
      </TableTd>
    </TableTr>
  );
}

/** How far it is: its rows first, then what follows from them. */
function Running({ run: { file_name, size, bytes_done, derived, to_derive } }: { run: ImportRun }) {
  const isTaken = to_derive !== null;
  const [done, of] = isTaken ? [derived ?? 0, to_derive] : [bytes_done, size];
  const share = of === 0 ? 0 : Math.round((100 * done) / of);
  const says = isTaken ? `progress and drift ${share} % worked out` : `${share} % read`;
  return (
    <>
      <Progress value={share} mt={4} aria-label={`${file_name}: ${says}`} striped={!isTaken && share === 100} />
      {isTaken && (
        <div className={classes.soft}>
          All rows are in and can be searched and graded. Progress and drift are being worked out: {share} %.
        </div>
      )}
    </>
  );
}

function Rejects({ run, lines }: { run: ImportRun; lines: string[][] }) {
  const [heading, ...rows] = lines;
  return (
    <section className={classes.rejects} aria-label="Rejected rows of the newest import">
      <h2>
        {sayCount(run.rejected, 'row')} of {run.file_name} {plural(run.rejected, 'was', 'were')} rejected
      </h2>
      <p className={classes.soft}>
        The good rows were taken. {run.rejected > rows.length ? `The first ${rows.length} are shown; ` : ''}
        <a href={`/api/v1/imports/${run.id}/rejects`} download>
          download all of them
        </a>
        , mend them and bring the file in again.
      </p>
      <PlainTable label="Rejected rows" heads={heading ?? []} fz={12} verticalSpacing={2}>
        {rows.map((cells, index) => (
          <TableTr key={index}>
            {cells.map((cell, place) => (
              <TableTd key={place}>
                <bdi>{cell}</bdi>
              </TableTd>
            ))}
          </TableTr>
        ))}
      </PlainTable>
    </section>
  );
}
