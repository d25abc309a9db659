import { TableTd, TableTr } from '@mantine/core';
import Link from 'next/link';
import { sayRhythm } from '@/core/reports/schedule';
import { sayInstant } from '@/core/time/words';
import type { SchedulesPage } from '@/server/reports/schedules';
import { PlainTable } from '@/ui/plain-table';
import { EndSchedule, LetterSwitch } from './report-buttons';
import classes from './reports.module.css';

const STATES = { waiting: 'waiting', sent: 'sent', failed: 'not sent' } as const;

interface Props {
  sent: SchedulesPage;
  now: number;
  zone: string;
}

/** What is sent by itself in one's own name, and what was sent. */
export function SentByItself({ sent: { schedules, hasLetter, sendings, sends }, now, zone }: Props) {
  return (
    <section className={classes.section}>
      <h2>Sent by itself</h2>
      <div className={classes.letter}>
        <LetterSwitch on={hasLetter} />
        <span className={classes.soft}>
          Mondays at 07:00, to you: who needs somebody this week up to your own number, what you promised, who came
          back, and what is new.
        </span>
      </div>
      {!sends && (
        <p role="status" className={classes.note}>
          No mail server is set, so nothing is sent. What is due goes once there is one.
        </p>
      )}
      {schedules.length > 0 && (
        <PlainTable label="Sent by itself" heads={['Report', 'When', 'As', 'To', 'Next']} last="Actions">
          {schedules.map(({ id, report_id, name, rhythm, format, layout, to, next_at, stopped_why }) => (
            <TableTr key={id}>
              <TableTd>
                <Link href={`/reports/${report_id}`}>
                  <bdi>{name}</bdi>
                </Link>
              </TableTd>
              <TableTd>{sayRhythm(rhythm)}</TableTd>
              <TableTd>
                {format === 'link' ? 'a link' : format.toUpperCase()}
                {layout === 'pages' && ', a page each'}
              </TableTd>
              <TableTd>{to.map((one) => one.name).join(', ')}</TableTd>
              <TableTd>{stopped_why === null ? sayInstant(next_at, zone, now) : `stopped: ${stopped_why}`}</TableTd>
              <TableTd>
                <EndSchedule id={id} />
              </TableTd>
            </TableTr>
          ))}
        </PlainTable>
      )}
      {sendings.length > 0 && (
        <PlainTable label="What was sent" heads={['Sent', 'What', 'To', 'State']}>
          {sendings.map(({ id, name, to, due_at, at, state, error }) => (
            <TableTr key={id}>
              <TableTd>{sayInstant(state === 'waiting' ? due_at : at, zone, now)}</TableTd>
              <TableTd>
                <bdi>{name}</bdi>
              </TableTd>
              <TableTd>{to}</TableTd>
              <TableTd>
                {STATES[state]}
                {error !== null && <div className={classes.soft}>{error}</div>}
              </TableTd>
            </TableTr>
          ))}
        </PlainTable>
      )}
    </section>
  );
}
