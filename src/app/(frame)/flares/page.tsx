import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayDaysAgo, sayInstant, sayList } from '@/core/time/words';
import { FLARES, flares, type FlareShown } from '@/server/contact/flares';
import { askedOf, controlsOf, listParams, sentencesOf, type At } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../_list/filter-bar';
import { linkTo } from '../../_list/list-link';
import { Outputs } from '../../_list/outputs';
import { PersonLink } from '../../_people/person-link';
import { openFrame, orNotFound, type SearchParams } from '../../_frame/page-context';
import frameClasses from '../../_frame/frame.module.css';
import { TopBar } from '../../_frame/top-bar';
import classes from '../follow-ups/follow-ups.module.css';
import { FlareButtons } from './flare-buttons';

export const metadata: Metadata = { title: 'Flares' };

const SHOWN = '50';

/** Calls to everybody around a learner: who has seen them, who has not, and what came of them. */
export default async function FlaresPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams, FLARES);
  const { runtime, viewer } = frame;
  const given = listParams(FLARES, frame.params);
  const params = { ...given, state: given.state ?? 'open' };
  const asked = { ...askedOf(FLARES, params), limit: SHOWN, cursor: frame.params.cursor };
  const list = await orNotFound(flares(runtime, viewer, asked));
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.wide}>
        <div className={classes.head}>
          <h1>Flares</h1>
          <span className={classes.soft}>
            {sayCount(list.total, 'flare')} {params.state}
          </span>
          <span className={classes.whose}>
            {(['open', 'ended'] as const).map((state) => (
              <Link
                key={state}
                href={linkTo(FLARES.path, { ...params, state })}
                aria-current={state === params.state ? 'true' : undefined}
              >
                {state}
              </Link>
            ))}
          </span>
          <Outputs list="flares" params={params} />
        </div>
        <FilterBar
          path={FLARES.path}
          params={params}
          sentences={sentencesOf(FLARES, { ...params, state: undefined })}
          controls={controlsOf(FLARES, {}).filter(({ name }) => name !== 'state')}
        />
        {list.rows.length === 0 ? (
          <p>
            {params.state === 'open'
              ? 'No flare is open. From a learner’s page you call everybody around them, with a reason; each says that they have seen it.'
              : 'No flare has ended yet.'}
          </p>
        ) : (
          <PlainTable
            label="Flares"
            heads={['Learner', 'Reason', 'Seen', params.state === 'open' ? 'Not seen yet' : 'What came of it']}
            last="Action"
          >
            {list.rows.map((row) => (
              <Flare key={row.id} row={row} at={list} />
            ))}
          </PlainTable>
        )}
        {list.next !== null && <Link href={linkTo(FLARES.path, { ...params, cursor: list.next })}>Older</Link>}
      </div>
    </>
  );
}

function Flare({ row, at: { now, zone } }: { row: FlareShown; at: At }) {
  const { id, learner_id, name, reason, by, at, seen, notSeen, asked, isMine, outcome, ended_by, ended_at } = row;
  return (
    <TableTr>
      <TableTd>
        <PersonLink learnerId={learner_id} name={name} />
      </TableTd>
      <TableTd className={classes.words}>
        <bdi>{reason}</bdi>
        <small className={classes.soft}>
          {' '}
          {by ?? 'a program'}, {sayInstant(at, zone, now)}
        </small>
      </TableTd>
      <TableTd>
        {seen.length === 0 ? (
          <span className={classes.soft}>nobody yet</span>
        ) : (
          seen.map((one) => (
            <div key={`${one.name} ${one.at}`}>
              <bdi>{one.name}</bdi> <span className={classes.soft}>{sayDaysAgo(one.at, now, zone)}</span>
            </div>
          ))
        )}
      </TableTd>
      <TableTd className={classes.words}>
        {ended_at === null ? (
          notSeen.length === 0 ? (
            <span className={classes.soft}>everybody has</span>
          ) : (
            <>
              <bdi>{sayList(notSeen)}</bdi>
              {asked > 1 && <small className={classes.soft}> asked {sayCount(asked, 'time')}</small>}
            </>
          )
        ) : (
          <>
            <bdi>{outcome}</bdi>
            <small className={classes.soft}>
              {' '}
              {ended_by ?? 'a program'}, {sayInstant(ended_at, zone, now)}
            </small>
          </>
        )}
      </TableTd>
      <TableTd>{ended_at === null && <FlareButtons id={id} name={name} isMine={isMine} />}</TableTd>
    </TableTr>
  );
}
