import { TableTd, TableTr } from '@mantine/core';
import { OUTCOMES } from '@/core/contact/follow-up';
import { sayDay, sayInstant } from '@/core/time/words';
import { dayOf } from '@/core/time/zone';
import type { FollowUpRow } from '@/data/contact/follow-ups';
import { PlainTable } from '@/ui/plain-table';
import { PersonLink } from '../../_people/person-link';
import frameClasses from '../../_frame/frame.module.css';

/** What came of past follow-ups. */
export function ClosedList({ rows, now, zone }: { rows: FollowUpRow[]; now: number; zone: string }) {
  const today = dayOf(now, zone);
  return (
    <div className={frameClasses.page}>
      {rows.length === 0 ? (
        <p>None has been closed yet.</p>
      ) : (
        <PlainTable label="Closed follow-ups" heads={['Learner', 'Reason', 'Was due', 'Outcome', 'Closed', 'Owner']}>
          {rows.map((row) => (
            <TableTr key={row.id}>
              <TableTd>
                <PersonLink learnerId={row.learner_id} name={row.name} />
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
        </PlainTable>
      )}
    </div>
  );
}
