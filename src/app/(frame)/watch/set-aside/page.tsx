import type { Metadata } from 'next';
import Link from 'next/link';
import { TableTd, TableTr } from '@mantine/core';
import { PlainTable } from '@/ui/plain-table';
import { sayDay } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { listSetAside } from '@/server/drift/reads';
import { PersonLink } from '../../../_people/person-link';
import { openFrame, type SearchParams } from '../../../_frame/page-context';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import { BringBackButton } from './bring-back-button';

export const metadata: Metadata = { title: 'Set aside' };

export default async function SetAsidePage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer } = frame;
  const { clock, zone } = runtime;
  const today = dayOf(clock.now(), zone);
  const rows = await listSetAside(runtime, viewer, today);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <p>
          <Link href="/watch">Back to the Watch</Link>
        </p>
        <h1>Set aside</h1>
        {rows.length === 0 ? (
          <p>
            You have set nobody aside. On the Watch, Set aside takes somebody off your list until a day, or until they
            come back.
          </p>
        ) : (
          <PlainTable label="Set aside" heads={['Learner', 'Until', 'Reason']} last="Action">
            {rows.map((row) => (
              <TableTr key={row.id}>
                <TableTd>
                  <PersonLink learnerId={row.learner_id} name={row.name} /> {row.learner_id}
                </TableTd>
                <TableTd>{row.until_day === null ? 'they come back' : sayDay(row.until_day, today)}</TableTd>
                <TableTd>
                  <bdi>{row.reason}</bdi>, since {sayDay(dayOf(row.created_at, zone), today)}
                </TableTd>
                <TableTd>
                  <BringBackButton learnerId={row.person} />
                </TableTd>
              </TableTr>
            ))}
          </PlainTable>
        )}
      </div>
    </>
  );
}
