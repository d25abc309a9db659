import { TableTd, TableTh, TableTr } from '@mantine/core';
import { sayDay, sayLength } from '@/core/time/words';
import { dateOfDay } from '@/core/time/zone';
import type { Everything } from '@/server/access/everything';
import { PlainTable } from '@/ui/plain-table';
import classes from '../learner.module.css';

interface ByWeekProps {
  weeks: Everything['weeks'];
  /** Days on which the log is incomplete. */
  gaps: readonly (readonly [number, number])[];
  today: number;
  /** Where a week is that is not on this page. */
  from: (day: number) => string;
}

/** Totals by week, those in which nothing was done included. */
export function ByWeek({ weeks, gaps, today, from }: ByWeekProps) {
  const most = Math.max(...weeks.map((week) => week.ms));
  return (
    <section className={classes.section}>
      <h2>By week</h2>
      <PlainTable
        label="Totals by week"
        w="auto"
        verticalSpacing={2}
        horizontalSpacing={12}
        className={classes.weeks}
        heads={['Week of', 'Visits', 'Days', 'Events', 'Time online (estimate)']}
      >
        {weeks.map((week) => {
          const gap = gaps.some(([a, b]) => b >= week.monday && a < week.monday + 7);
          const here = `#week-${dateOfDay(week.monday)}`;
          return (
            <TableTr key={week.monday}>
              <TableTh scope="row">
                {week.visits.length === 0 ? (
                  sayDay(week.monday, today)
                ) : (
                  <a href={week.visits.some(({ shown }) => shown) ? here : from(week.monday)}>
                    {sayDay(week.monday, today)}
                  </a>
                )}
              </TableTh>
              <TableTd>{week.visits.length}</TableTd>
              <TableTd>{week.activeDays}</TableTd>
              <TableTd>{week.events}</TableTd>
              <TableTd>
                {week.ms > 0 && (
                  <>
                    <span className={classes.bar} style={{ width: `${Math.round((120 * week.ms) / most)}px` }} />
                    about {sayLength(week.ms)}
                  </>
                )}
                {week.ms === 0 && !gap && 'nothing'}
                {gap && <span className={classes.soft}>{week.ms > 0 && ' · '}log incomplete</span>}
              </TableTd>
            </TableTr>
          );
        })}
      </PlainTable>
    </section>
  );
}
