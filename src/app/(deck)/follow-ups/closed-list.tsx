import { Table, TableTbody, TableTd, TableTr } from '@mantine/core';
import Link from 'next/link';
import { OUTCOMES } from '@/core/contact/follow-up';
import { sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import type { FollowUpRow } from '@/data/contact/follow-ups';
import { Headings } from '@/ui/headings';
import deckClasses from '../../_deck/deck.module.css';
import classes from './follow-ups.module.css';

/** What came of past follow-ups. */
export function ClosedList({ rows, now, zone }: { rows: FollowUpRow[]; now: number; zone: string }) {
  const today = dayOf(now, zone);
  return (
    <div className={deckClasses.page}>
      {rows.length === 0 ? (
        <p>None has been closed yet.</p>
      ) : (
        <div className={classes.scroll} tabIndex={0} role="group" aria-label="Closed follow-ups">
          <Table>
            <Headings of={['Learner', 'Reason', 'Was due', 'Outcome', 'Closed', 'Owner']} />
            <TableTbody>
              {rows.map((row) => (
                <TableTr key={row.id}>
                  <TableTd>
                    <Link href={`/learners/${encodeURIComponent(row.learner_id)}`}>
                      <bdi>{row.name}</bdi>
                    </Link>
                  </TableTd>
                  <TableTd>
                    <bdi>{row.reason}</bdi>
                  </TableTd>
                  <TableTd>{sayDay(row.due_day, today)}</TableTd>
                  <TableTd>{row.outcome && OUTCOMES[row.outcome].says}</TableTd>
                  <TableTd>{row.closed_at !== null && sayInstant(row.closed_at, zone, now)}</TableTd>
                  <TableTd>{row.owner}</TableTd>
                </TableTr>
              ))}
            </TableTbody>
          </Table>
        </div>
      )}
    </div>
  );
}
