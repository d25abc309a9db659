import { Table, TableTbody, TableTd, TableTr } from '@mantine/core';
import type { Metadata } from 'next';
import Link from 'next/link';
import { sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import { checksOf, seeChecks } from '@/server/item-use/checks';
import { Headings } from '@/ui/headings';
import { openFrame, type SearchParams } from '../../../_frame/page-context';
import { CourseTabs } from '../../../_frame/sections';
import frameClasses from '../../../_frame/frame.module.css';
import { TopBar } from '../../../_frame/top-bar';
import classes from '../courses.module.css';
import { RemoveCheck } from './remove-check';

export const metadata: Metadata = { title: 'Saved checks' };

/** a question of who did and who did not that are asked again each day. */
export default async function ChecksPage({ searchParams }: { searchParams: SearchParams }) {
  const frame = await openFrame(searchParams);
  const { runtime, viewer, view } = frame;
  const { zone } = runtime;
  const today = dayOf(view.now, zone);
  const checks = await checksOf(runtime, viewer);
  await seeChecks(runtime, viewer);
  return (
    <>
      <TopBar frame={frame} present />
      <div className={frameClasses.page}>
        <CourseTabs />
        <h1>Saved checks</h1>
        {checks.length === 0 ? (
          <p>
            None is saved yet. Ask something under <Link href="/courses/who-did">Who did</Link> and save it as a check:
            it is asked again every day, and you are told when too many have not.
          </p>
        ) : (
          <div className={classes.scroll} tabIndex={0} role="group" aria-label="Saved checks">
            <Table>
              <Headings of={['Check', 'Have not', 'Tell me above', 'Asked']} last="Remove" />
              <TableTbody>
                {checks.map((check) => (
                  <TableTr key={check.id}>
                    <TableTd>
                      <Link href={`/courses/who-did?${check.query}`}>
                        <bdi>{check.name}</bdi>
                      </Link>
                      {check.passed_at !== null && (
                        <div className={classes.alarm}>
                          {check.fresh ? 'New: p' : 'P'}assed its number {sayInstant(check.passed_at, zone, view.now)}
                        </div>
                      )}
                      {check.fault && <div className={classes.alarm}>Could not be asked: {check.fault}</div>}
                    </TableTd>
                    <TableTd>
                      {check.last_count === null ? 'not asked yet' : `${check.last_count} of ${check.last_of}`}
                    </TableTd>
                    <TableTd>{check.limit_count}</TableTd>
                    <TableTd>{check.last_day === null ? '' : sayDay(check.last_day, today)}</TableTd>
                    <TableTd>
                      <RemoveCheck id={check.id} name={check.name} />
                    </TableTd>
                  </TableTr>
                ))}
              </TableTbody>
            </Table>
          </div>
        )}
      </div>
    </>
  );
}
