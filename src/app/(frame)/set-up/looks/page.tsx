import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayInstant } from '@/core/time/words';
import { LOOKS, looks } from '@/server/privacy/looks';
import { askedOf, controlsOf, listParams, sentencesOf } from '@/server/request/list';
import { PlainTable } from '@/ui/plain-table';
import { FilterBar } from '../../../_list/filter-bar';
import { linkTo } from '../../../_list/list-link';
import { Outputs } from '../../../_list/outputs';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, orNotFound, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';

export const metadata: Metadata = { title: 'Who looked' };

/** Rows on a page. */
const SHOWN = '100';

const WHAT: Readonly<Record<string, string>> = {
  page: 'their page',
  panel: 'the panel beside a list',
  api: 'an answer of the API',
  export: 'a file',
};

/** Who looked at whom, and what was taken away: written down by itself, and never changed. */
export default async function LooksPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const params = listParams(LOOKS, frame.params);
  const asked = { ...askedOf(LOOKS, params), limit: SHOWN, cursor: frame.params.cursor };
  const list = await orNotFound(looks(runtime, viewer, asked));
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Who looked</h1>
          <span className={classes.soft}>{sayCount(list.total, 'look')}</span>
          <Outputs list="looks" params={params} />
        </div>
        <SetUpTabs />
        <FilterBar
          path={LOOKS.path}
          params={params}
          sentences={sentencesOf(LOOKS, params)}
          controls={controlsOf(LOOKS, {})}
        />
        {list.rows.length === 0 ? (
          <p>Nobody has looked. Whose page was opened, and what was taken away as a file, will stand here.</p>
        ) : (
          <PlainTable label="Who looked" heads={['When', 'Who', 'At whom', 'What']}>
            {list.rows.map((row) => (
              <TableTr key={row.id}>
                <TableTd>{sayInstant(row.at, list.zone, list.now)}</TableTd>
                <TableTd>
                  {row.email === null ? (
                    'a program, by the installation’s token'
                  ) : (
                    <Link href={linkTo(LOOKS.path, { ...params, staff: row.email })}>
                      <bdi>{row.by}</bdi>
                    </Link>
                  )}
                </TableTd>
                <TableTd>{row.learner_id && <PersonLink learnerId={row.learner_id} name={row.name} />}</TableTd>
                <TableTd>
                  {WHAT[row.what] ?? row.what} <span className={classes.soft}>{row.subject}</span>
                </TableTd>
              </TableTr>
            ))}
          </PlainTable>
        )}
        {list.next !== null && <Link href={linkTo(LOOKS.path, { ...params, cursor: list.next })}>Older</Link>}
      </div>
    </>
  );
}
