'use client';

import { Button, Table } from '@mantine/core';
import Link from 'next/link';
import { Fragment, useMemo, useState } from 'react';
import { foldRuns, type Run } from '@/core/access/fold';
import { sayCount, sayDay, sayTime } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { linkTo } from '../../_deck/list-link';
import { useEndless } from '../../_deck/use-endless';
import type { LogLine, LogParams } from './log-params';
import classes from './access-log.module.css';

interface Props {
  lines: LogLine[];
  /** From where the log goes on; null at its end. */
  older: string | null;
  params: LogParams;
  /** Fold runs into visits. */
  fold: boolean;
  zone: string;
  now: number;
}

/** The log's rows, newest first, going on as one scrolls. */
export function LogTable({ lines, older, params, fold, zone, now }: Props) {
  const { all, goesOn, more, failed, load } = useEndless(lines, older, '/access-log/rows', params);
  const runs = useMemo(
    () => (fold ? foldRuns(all) : all.map((row) => ({ who: row.who, first: row.at, last: row.at, rows: [row] }))),
    [all, fold],
  );
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set());
  const toggle = (id: number) =>
    setOpen((known) => {
      const changed = new Set(known);
      if (!changed.delete(id)) changed.add(id);
      return changed;
    });
  const narrow = (changes: Record<string, string | null>) => linkTo('/access-log', { ...params, ...changes });
  const today = dayOf(now, zone);
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label="Events">
      <Table stickyHeader className={classes.log}>
        <Table.Thead>
          <Table.Tr>
            <Table.Th>Time</Table.Th>
            <Table.Th>Learner</Table.Th>
            <Table.Th className={classes.wideOnly}>Course</Table.Th>
            <Table.Th>Item</Table.Th>
            <Table.Th className={classes.wideOnly}>Action</Table.Th>
            <Table.Th className={classes.wideOnly}>Kind</Table.Th>
            <Table.Th className={classes.wideOnly}>Address</Table.Th>
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {runs.map((run, index) => {
            const day = dayOf(run.last, zone);
            const begins = index === 0 || dayOf(runs[index - 1].last, zone) !== day;
            const id = run.rows[0].id;
            return (
              <Fragment key={id}>
                {begins && (
                  <Table.Tr className={classes.day}>
                    <Table.Th colSpan={7} scope="rowgroup">
                      <Link href={narrow(dayOnly(day))}>{sayDay(day, today)}</Link>
                    </Table.Th>
                  </Table.Tr>
                )}
                {run.rows.length > 1 && (
                  <RunRow run={run} open={open.has(id)} onToggle={() => toggle(id)} narrow={narrow} zone={zone} />
                )}
                {(run.rows.length === 1 || open.has(id)) &&
                  run.rows.map((row) => (
                    <EventRow key={row.id} row={row} inside={run.rows.length > 1} narrow={narrow} zone={zone} />
                  ))}
              </Fragment>
            );
          })}
        </Table.Tbody>
      </Table>
      {goesOn && (
        <div ref={more} className={classes.more}>
          {failed ? (
            <Button variant="default" onClick={load}>
              The next rows did not come. Try again
            </Button>
          ) : (
            'More events …'
          )}
        </div>
      )}
      {!goesOn && <p className={classes.more}>No earlier event{all.length === 1 ? '' : 's'}.</p>}
    </div>
  );
}

/** From one day's midnight to the next. */
function dayOnly(day: number): Record<string, string | null> {
  return { from: dateOfDay(day), to: dateOfDay(day + 1), period: null };
}

interface RowProps {
  narrow: (changes: Record<string, string | null>) => string;
  zone: string;
}

function RunRow({
  run,
  open,
  onToggle,
  narrow,
  zone,
}: RowProps & { run: Run<LogLine>; open: boolean; onToggle: () => void }) {
  const [row] = run.rows;
  const courses = [...new Set(run.rows.map((one) => one.course))].join(', ');
  const items = new Set(run.rows.map((one) => one.item_id).filter(Boolean));
  return (
    <Table.Tr className={classes.run}>
      <Table.Td className={classes.nowrap}>
        <button type="button" className={classes.fold} aria-expanded={open} onClick={onToggle}>
          <span aria-hidden="true">{open ? '▾' : '▸'}</span>{' '}
          {dayOf(run.first, zone) !== dayOf(run.last, zone) && `${sayDay(dayOf(run.first, zone))}, `}
          {sayTime(run.first, zone)}–{sayTime(run.last, zone)}
        </button>
      </Table.Td>
      <Table.Td>
        <Who row={row} narrow={narrow} />
      </Table.Td>
      <Table.Td className={classes.wideOnly}>{courses}</Table.Td>
      <Table.Td colSpan={4}>
        {sayCount(run.rows.length, 'event')}
        {items.size > 0 && `, ${sayCount(items.size, 'item')}`}
      </Table.Td>
    </Table.Tr>
  );
}

function EventRow({ row, inside, narrow, zone }: RowProps & { row: LogLine; inside: boolean }) {
  return (
    <Table.Tr className={inside ? classes.inside : undefined}>
      <Table.Td className={classes.nowrap}>{sayTimeSeconds(row.at, zone)}</Table.Td>
      <Table.Td>
        {inside ? <span className="visually-hidden">{row.name}</span> : <Who row={row} narrow={narrow} />}
      </Table.Td>
      <Table.Td className={classes.wideOnly}>
        <Link href={narrow({ course: row.course })}>{row.course}</Link>
      </Table.Td>
      <Table.Td>
        {row.item_id === null ? (
          <span className={classes.soft}>the course</span>
        ) : (
          <Link href={narrow({ course: row.course, item: row.item_id })}>
            <bdi>{row.item}</bdi>
          </Link>
        )}
      </Table.Td>
      <Table.Td className={classes.wideOnly}>
        <Link href={narrow({ action: row.action })}>
          <bdi>{row.action.replaceAll('_', ' ')}</bdi>
        </Link>
      </Table.Td>
      <Table.Td className={classes.wideOnly}>
        <Link href={narrow({ kind: row.kind })}>{row.kind}</Link>
      </Table.Td>
      <Table.Td className={classes.wideOnly}>
        <bdi>{row.address ?? ''}</bdi>
      </Table.Td>
    </Table.Tr>
  );
}

function Who({ row, narrow }: { row: LogLine; narrow: RowProps['narrow'] }) {
  if (row.staff) {
    return (
      <>
        <bdi>{row.name}</bdi> <span className={classes.soft}>staff</span>
      </>
    );
  }
  return (
    <>
      <Link href={narrow({ learner: row.learner_id })}>
        <bdi>{row.name}</bdi>
      </Link>{' '}
      <span className={classes.soft}>{row.learner_id}</span>
    </>
  );
}

/** "21:40:07": two events of one minute are told apart. */
function sayTimeSeconds(at: number, zone: string): string {
  return `${sayTime(at, zone)}:${String(Math.floor(at / 1000) % 60).padStart(2, '0')}`;
}
