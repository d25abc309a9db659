import { TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayCount, sayInstant } from '@/core/time/words';
import { findAudit } from '@/server/request/reads';
import { PlainTable } from '@/ui/plain-table';
import { PersonLink } from '../../../_people/person-link';
import { linkTo } from '../../../_list/list-link';
import { openFrame, requireLead, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { SetUpTabs } from '../../../_frame/sections';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../set-up.module.css';

export const metadata: Metadata = { title: 'Changes' };

const PAGE = 100;

/** Who made a change, and by what where that was no browser. */
function sayMaker({ by, via }: { by: string | null; via: string | null }): string {
  if (by === null) return via === null ? 'Lee Shore' : via.charAt(0).toUpperCase() + via.slice(1);
  return via === null ? by : `${by}, by ${via}`;
}

export default async function ChangesPage({ searchParams }: { searchParams: SearchParams }) {
  await requireLead();
  const frame = await openFrame(searchParams);
  const { runtime, viewer, view, params } = frame;
  const page = Math.max(1, Math.floor(Number(params.page)) || 1);
  const { rows, total } = await findAudit(runtime, viewer, {
    until: view.now,
    limit: PAGE,
    offset: (page - 1) * PAGE,
  });
  const link = (to: number) => linkTo('/set-up/changes', { in: frame.segmentKey, as_of: frame.asOf, page: String(to) });
  return (
    <>
      <TopBar frame={frame} />
      <div className={frameClasses.page}>
        <div className={classes.head}>
          <h1>Changes</h1>
          <span className={classes.soft}>{sayCount(total, 'change')}</span>
        </div>
        <SetUpTabs />
        {rows.length === 0 ? (
          <p>Nothing has been changed yet. Who changed what, and when, will stand here.</p>
        ) : (
          <PlainTable label="Changes" heads={['When', 'Who', 'What', 'Whose']}>
            {rows.map((row) => (
              <TableTr key={row.id}>
                <TableTd>{sayInstant(row.at, runtime.zone, view.now)}</TableTd>
                <TableTd>{sayMaker(row)}</TableTd>
                <TableTd>
                  <strong>{row.what}</strong> <bdi>{row.subject}</bdi>
                  {Object.entries(row.changes).map(([name, [from, to]]) => (
                    <div key={name} className={classes.soft}>
                      {name.replaceAll('_', ' ')}: <bdi>{from ?? 'none'}</bdi> → <bdi>{to ?? 'none'}</bdi>
                    </div>
                  ))}
                </TableTd>
                <TableTd>{row.learner_id && <PersonLink learnerId={row.learner_id} name={row.name} />}</TableTd>
              </TableTr>
            ))}
          </PlainTable>
        )}
        <nav className={classes.pages} aria-label="Pages">
          {page > 1 && <Link href={link(page - 1)}>Newer</Link>}
          {page * PAGE < total && <Link href={link(page + 1)}>Older</Link>}
        </nav>
      </div>
    </>
  );
}
