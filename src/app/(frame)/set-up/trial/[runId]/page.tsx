import { Alert, Progress } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayInstant } from '@/core/time/words';
import { trialRunPage } from '@/server/trial/pages';
import { openFrame, orNotFound, requireLead, type SearchParams } from '../../../../_frame/page-context';
import frameClasses from '../../../../_frame/frame.module.css';
import { Refresher } from '../../../../_frame/refresher';
import { SetUpTabs } from '../../../../_frame/sections';
import { TopBar } from '../../../../_frame/top-bar';
import classes from '../../set-up.module.css';
import { CancelButton } from '../cancel-button';
import { ChanceTable } from './chance-table';
import { MeasuresTable } from './measures-table';
import { FitTable } from './fit-table';
import { FoundList } from './found-list';
import { SubgroupTables } from './subgroup-tables';
import { RecallChart } from './recall-chart';
import { WeeksTable } from './weeks-table';
import '@mantine/core/styles/Progress.layer.css';

export const metadata: Metadata = { title: 'Trial on past courses' };

interface Props {
  params: Promise<{ runId: string }>;
  searchParams: SearchParams;
}

export default async function TrialPage({ params, searchParams }: Props) {
  const viewer = await requireLead();
  const [{ runId }, frame] = await Promise.all([params, openFrame(searchParams)]);
  const { run, fit, trial, missed, forNothing } = await orNotFound(trialRunPage(frame.runtime, viewer, Number(runId)));
  const isMoving = run.state === 'waiting' || run.state === 'running';
  const first = trial?.trials[0];
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={isMoving ? 1000 : null} />
      <div className={frameClasses.page}>
        <h1>{run.kind === 'fit' ? 'Fit' : 'Trial on past courses'}</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          <Link href="/set-up/trial">All trials</Link> · {sayInstant(run.at, frame.runtime.zone)}
          {run.by && `, ${run.by}`} · {run.what}
        </p>
        {isMoving && (
          <div role="status">
            <p>
              {run.state === 'waiting' ? 'It waits to be begun.' : `Under way: ${run.done} of a hundred.`} You can
              leave.
            </p>
            <Progress value={run.done} w={320} mb="sm" aria-label={`${run.done} of a hundred`} />
            <CancelButton id={run.id} />
          </div>
        )}
        {run.state === 'cancelled' && <p>It was cancelled: nothing of it was kept.</p>}
        {run.state === 'failed' && (
          <Alert color="red" title="It came to nothing">
            {run.says}
          </Alert>
        )}
        {fit && <FitTable fit={fit} runId={run.id} />}
        {trial && first && (
          <>
            {first.says && <Alert title="Too few to tell">{first.says}</Alert>}
            {first.notes.map((note) => (
              <Alert key={note} title="Is the log whole?" mt="sm">
                {note}
              </Alert>
            ))}
            <MeasuresTable trials={trial.trials} />
            {trial.curve && <RecallChart curve={trial.curve} titles={trial.trials.map(({ title }) => title)} />}
            {first.auc.length > 0 && <WeeksTable trials={trial.trials} />}
            {trial.parts.length > 0 && <SubgroupTables parts={trial.parts} title={first.title} />}
            {trial.chances.length > 0 && <ChanceTable chances={trial.chances} />}
            <FoundList
              title={`Missed by ${first.title}: ${first.missed}`}
              nobody="Nobody who left was missed."
              people={missed}
              all={first.missed}
            />
            <FoundList
              title={`Called for nothing by ${first.title}: ${first.called_for_nothing}`}
              nobody="Nobody was called for nothing."
              people={forNothing}
              all={first.called_for_nothing}
            />
          </>
        )}
      </div>
    </>
  );
}
