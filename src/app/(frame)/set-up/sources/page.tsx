import { Table, TableTbody, TableTd, TableTh, TableThead, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { PROTOCOL_WORDS } from '@/core/feed/protocol';
import { sayCount, sayDay, sayDaysAgo, sayInstant, sayLength } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import type { GapRow } from '@/data/feed/feed-gaps';
import { listGaps } from '@/server/feed/reads';
import type { SourceRow } from '@/data/feed/sources';
import { listCredentials, listSources } from '@/server/feed/reads';
import { whatWaits } from '@/server/feed/reads';
import { sourceRhythms, type SourceRhythm } from '@/server/feed/feed';
import { PlainTable } from '@/ui/plain-table';
import { linkTo } from '../../../_list/list-link';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';
import { AddCredential, EndCredential, NameGap, SettleGap } from './source-actions';

export const metadata: Metadata = { title: 'Sources' };

const WAITING_SHOWN = 20;

/** Where events come from, how regularly, what is missing, and who may send. */
export default async function SourcesPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { clock, zone } = runtime;
  const now = clock.now();
  const today = dayOf(now, zone);
  const [sources, rhythms, gaps, credentials, waiting] = await Promise.all([
    listSources(runtime),
    sourceRhythms(runtime),
    listGaps(runtime, viewer),
    listCredentials(runtime),
    whatWaits(runtime, WAITING_SHOWN),
  ]);
  const stopped = gaps.filter((gap) => gap.state === 'stopped');
  // The hours of a log that has stopped are asked about once.
  const found = gaps.filter(
    (gap) => gap.state === 'found' && !stopped.some((one) => one.source === gap.source && one.from_at < gap.to_at),
  );
  const settled = gaps.filter((gap) => gap.state !== 'found' && gap.state !== 'stopped');
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <h1>Sources</h1>
        <SetUpTabs />
        <section>
          <h2>Where events come from</h2>
          {sources.length === 0 ? (
            <p>No source yet: bring in an access log, or make a credential below for one that sends by itself.</p>
          ) : (
            <Sources sources={sources} rhythms={rhythms} now={now} zone={zone} />
          )}
        </section>
        <section className={classes.section}>
          <h2>Gaps in the feed</h2>
          <p className={classes.soft}>
            Hours in which a source sent nothing although it usually does. Once confirmed, its days are left out of what
            is counted, and figures say that the log is incomplete. A later file that fills a gap clears it.
          </p>
          {stopped.length > 0 && (
            <ul className={classes.gaps}>
              {stopped.map((gap) => (
                <li key={gap.id}>
                  <span>
                    <strong>{gap.source}</strong> has sent nothing since {sayDay(dayOf(gap.from_at, zone) - 1, today)}.
                    The days since are not counted until more of its log comes. If it was truly quiet, such as over a
                    holiday, say so and they count. <LogLink gap={gap} />
                  </span>
                  <SettleGap
                    id={gap.id}
                    what={`${gap.source} since ${sayDay(dayOf(gap.from_at, zone) - 1, today)}`}
                    is
                    quiet
                  />
                </li>
              ))}
            </ul>
          )}
          {found.length > 0 && (
            <ul className={classes.gaps}>
              {found.map((gap) => (
                <li key={gap.id}>
                  <span>
                    <strong>{gap.source}</strong> sent nothing {sayStretch(gap, zone, now)}, where about{' '}
                    {sayCount(Math.round(gap.expected ?? 0), 'event')} usually come. <LogLink gap={gap} />
                  </span>
                  <SettleGap id={gap.id} what={`${gap.source} ${sayStretch(gap, zone, now)}`} open />
                </li>
              ))}
            </ul>
          )}
          <NameGap sources={sources.filter((source) => source.last_event_at !== null).map((source) => source.name)} />
          {settled.length > 0 && (
            <PlainTable label="Settled gaps" mt={8} heads={['Source', 'When', 'State']} last="Change">
              {settled.map((gap) => (
                <TableTr key={gap.id}>
                  <TableTd>{gap.source}</TableTd>
                  <TableTd>
                    {sayStretch(gap, zone, now)}
                    {gap.reason && <div className={classes.soft}>{gap.reason}</div>}
                  </TableTd>
                  <TableTd>
                    {STATE_WORDS[gap.state]}
                    {gap.by && <div className={classes.soft}>said {gap.by}</div>}
                  </TableTd>
                  <TableTd>
                    {gap.state !== 'filled' && (
                      <SettleGap
                        id={gap.id}
                        what={`${gap.source} ${sayStretch(gap, zone, now)}`}
                        is={gap.state === 'confirmed'}
                      />
                    )}
                  </TableTd>
                </TableTr>
              ))}
            </PlainTable>
          )}
        </section>
        <section className={classes.section}>
          <h2>Sending by itself</h2>
          <p className={classes.soft}>
            A platform sends statements of the Experience API (1.0.3 or 2.0) to <code>/xapi/statements</code> of this
            address, with a key and a secret of its own (basic), or the secret alone (bearer); or envelopes of Caliper
            (1.2) to <code>/caliper</code>, with a secret of its own (bearer). Both come into one log.
          </p>
          {credentials.length > 0 && (
            <PlainTable label="Credentials" heads={['Source', 'Key', 'For', 'Made']} last="End">
              {credentials.map((credential) => (
                <TableTr key={credential.id}>
                  <TableTd>{credential.source}</TableTd>
                  <TableTd>
                    <code>{credential.key}</code>
                  </TableTd>
                  <TableTd>{PROTOCOL_WORDS[credential.protocol]}</TableTd>
                  <TableTd>{sayDaysAgo(credential.created_at, now, zone)}</TableTd>
                  <TableTd>
                    <EndCredential id={credential.id} source={credential.source} />
                  </TableTd>
                </TableTr>
              ))}
            </PlainTable>
          )}
          <AddCredential />
        </section>
        {waiting.length > 0 && (
          <section className={classes.section}>
            <h2>Statements that wait</h2>
            <p className={classes.soft}>
              They are about people or items that nobody has named yet, and are taken in when the roster or an outline
              does.
            </p>
            <Table>
              <TableThead>
                <TableTr>
                  <TableTh>Source</TableTh>
                  <TableTh>Waits for</TableTh>
                  <TableTh ta="right">Statements</TableTh>
                </TableTr>
              </TableThead>
              <TableTbody>
                {waiting.map((one) => (
                  <TableTr key={`${one.source} ${one.waits_for}`}>
                    <TableTd>{one.source}</TableTd>
                    <TableTd>
                      <bdi>{viewer.standInKey === null ? one.waits_for : one.waits_for.split(' ')[0]}</bdi>
                    </TableTd>
                    <TableTd ta="right">{one.statements.toLocaleString('en-GB')}</TableTd>
                  </TableTr>
                ))}
              </TableTbody>
            </Table>
          </section>
        )}
      </div>
    </>
  );
}

const STATE_WORDS: Record<GapRow['state'], string> = {
  confirmed: 'a gap',
  dismissed: 'no gap',
  filled: 'filled since',
  found: '',
  stopped: '',
};

function sayStretch(gap: GapRow, zone: string, now: number): string {
  return `${sayInstant(gap.from_at, zone, now)} to ${sayInstant(gap.to_at, zone, now)}`;
}

/** The log around a gap, to see what there is. */
function LogLink({ gap }: { gap: GapRow }) {
  const iso = (at: number) => new Date(at).toISOString();
  return (
    <Link href={linkTo('/access-log', { from: iso(gap.from_at), to: iso(gap.to_at), staff: 'yes' })}>
      The log of that time
    </Link>
  );
}

interface SourcesProps {
  sources: SourceRow[];
  rhythms: SourceRhythm[];
  now: number;
  zone: string;
}

function Sources({ sources, rhythms, now, zone }: SourcesProps) {
  return (
    <PlainTable label="Sources" heads={['Source', 'Courses', 'Last event', 'Usually, in this hour', 'State']}>
      {sources.map((source) => {
        const rhythm = rhythms.find(({ id }) => id === source.id);
        return (
          <TableTr key={source.id}>
            <TableTd>{source.name}</TableTd>
            <TableTd>{source.courses.join(', ')}</TableTd>
            <TableTd>
              {source.last_event_at === null ? 'none yet' : sayInstant(source.last_event_at, zone, now)}
            </TableTd>
            <TableTd>
              {rhythm === undefined || rhythm.usual === null
                ? 'not known yet'
                : sayCount(Math.round(rhythm.usual), 'event')}
            </TableTd>
            <TableTd>
              {rhythm?.late ? <strong>late</strong> : source.live_at === null ? 'by file' : 'by itself'}
              {source.ahead_ms > 0 && (
                <div className={classes.soft}>
                  its clock ran {sayLength(source.ahead_ms)} ahead {sayDaysAgo(source.ahead_at!, now, zone)}: such
                  events are dated when they came
                </div>
              )}
            </TableTd>
          </TableTr>
        );
      })}
    </PlainTable>
  );
}
