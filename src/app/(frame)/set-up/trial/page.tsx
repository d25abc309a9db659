import { Progress, TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayInstant } from '@/core/time/words';
import { trialsPage } from '@/server/trial/pages';
import { PlainTable } from '@/ui/plain-table';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { Refresher } from '../../../_frame/refresher';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { AskForm } from './ask-form';
import { CancelButton } from './cancel-button';
import '@mantine/core/styles/Progress.layer.css';

export const metadata: Metadata = { title: 'Trial on past courses' };

const STATE_WORDS = {
  waiting: 'waiting',
  running: 'under way',
  done: 'done',
  cancelled: 'cancelled',
  failed: 'failed',
} as const;

export default async function TrialsPage({ searchParams }: { searchParams: SearchParams }) {
  const viewer = await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime } = frame;
  const { courses, rules, runs } = await trialsPage(runtime, viewer);
  const isMoving = runs.some(({ state }) => state === 'waiting' || state === 'running');
  return (
    <>
      <TopBar frame={frame} present />
      <Refresher every={isMoving ? 1000 : null} />
      <div className={frameClasses.page}>
        <h1>Trial on past courses</h1>
        <SetUpTabs />
        <p className={classes.soft}>
          A rule is replayed on courses that have ended, week by week, with what was known then: which share of those
          who left it would have listed in time, how early, and whom it would have listed for nothing. Beside it stand
          “quiet 7 days or more, or never” at as many people a week, and lists by chance. A fit proposes weights from
          the same past; nothing is changed until somebody takes them.
        </p>
        {courses.length === 0 ? (
          <p>No course has ended yet. A trial needs one whose last day has gone by, with who left and who finished.</p>
        ) : (
          <AskForm courses={courses} rules={rules} />
        )}
        <section className={classes.section}>
          <h2>Trials and fits</h2>
          {runs.length === 0 ? (
            <p className={classes.soft}>Nobody has asked for one yet.</p>
          ) : (
            <PlainTable label="Trials and fits" heads={['When', 'By', 'What', 'State']} last="Actions">
              {runs.map(({ id, at, by, what, state, done, says }) => (
                <TableTr key={id}>
                  <TableTd>{sayInstant(at, runtime.zone)}</TableTd>
                  <TableTd>{by ?? 'Lee Shore'}</TableTd>
                  <TableTd>
                    <Link href={`/set-up/trial/${id}`}>{what}</Link>
                  </TableTd>
                  <TableTd>
                    {STATE_WORDS[state]}
                    {state === 'running' && (
                      <Progress value={done} size="sm" w={120} aria-label={`${done} of a hundred`} />
                    )}
                    {says && <div className={classes.soft}>{says}</div>}
                  </TableTd>
                  <TableTd>{(state === 'waiting' || state === 'running') && <CancelButton id={id} />}</TableTd>
                </TableTr>
              ))}
            </PlainTable>
          )}
        </section>
      </div>
    </>
  );
}
