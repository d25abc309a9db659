'use client';

import { Table } from '@mantine/core';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { foldRuns, type Run } from '@/core/access/fold';
import { sayCount, sayDay, sayTime } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import { linkTo } from '../../_list/list-link';
import lists from '../../_list/list.module.css';
import { useEndless } from '../../_list/use-endless';
import type { LogLine } from '@/server/access/log-list';
import type { Params } from '@/server/request/list';
import { Gap, MoreRows } from '../../_list/rows';
import { useVirtualRows, type VirtualRow } from '../../_list/use-virtual-rows';
import classes from './access-log.module.css';

interface Props {
  lines: LogLine[];
  /** From where the log goes on; null at its end. */
  older: string | null;
  params: Params;
  /** Titles of the columns. */
  columns: readonly string[];
  /** Fold runs into visits. */
  fold: boolean;
  zone: string;
  now: number;
}

/** The log's rows, newest first, going on as one scrolls. */
export function LogTable({ lines, older, params, columns, fold, zone, now }: Props) {
  const { all, goesOn, more, failed, load } = useEndless(lines, older, '/lists/access-log/rows', params);
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
  const drawn = useMemo(() => drawnRows(runs, open, zone), [runs, open, zone]);
  const virtual = useVirtualRows(drawn.length, ROW_HEIGHT);
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label="Events">
      <Table stickyHeader className={classes.log}>
        <Table.Thead>
          <Table.Tr>
            {columns.map((title, place) => (
              <Table.Th key={title} className={NARROW.includes(place) ? undefined : classes.wideOnly}>
                {title}
              </Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody ref={virtual.body}>
          <Gap height={virtual.above} columns={columns.length} />
          {virtual.places.map((place) => {
            const { key, day, run, row, inside } = drawn[place];
            const at = virtual.row(place);
            if (day !== undefined) {
              return (
                <Table.Tr key={key} {...at} className={classes.day}>
                  <Table.Th colSpan={columns.length} scope="rowgroup">
                    <Link href={narrow(dayOnly(day))}>{sayDay(day, today)}</Link>
                  </Table.Th>
                </Table.Tr>
              );
            }
            if (run) {
              const { id } = run.rows[0];
              return (
                <RunRow
                  key={key}
                  at={at}
                  run={run}
                  open={open.has(id)}
                  onToggle={() => toggle(id)}
                  narrow={narrow}
                  zone={zone}
                />
              );
            }
            return <EventRow key={key} at={at} row={row!} inside={inside ?? false} narrow={narrow} zone={zone} />;
          })}
          <Gap height={virtual.below} columns={columns.length} />
        </Table.Tbody>
      </Table>
      {goesOn ? (
        <MoreRows more={more} failed={failed} load={load} says="More events …" />
      ) : (
        <p className={lists.more}>There are no earlier events.</p>
      )}
    </div>
  );
}

/** Height of a row in px, until it is drawn. */
const ROW_HEIGHT = 29;
/** Positions of the columns that stay on a narrow screen: when, who, on what. */
const NARROW = [0, 1, 3];

/** One row of the table: a day, a run that is folded, or an event. */
interface Drawn {
  key: string;
  day?: number;
  run?: Run<LogLine>;
  row?: LogLine;
  /** Of a run that is open. */
  inside?: boolean;
}

function drawnRows(runs: readonly Run<LogLine>[], open: ReadonlySet<number>, zone: string): Drawn[] {
  return runs.flatMap((run, index) => {
    const day = dayOf(run.last, zone);
    const { id } = run.rows[0];
    const isRun = run.rows.length > 1;
    const begins = index === 0 || dayOf(runs[index - 1].last, zone) !== day;
    const events = run.rows.map((row) => ({ key: `event ${row.id}`, row, inside: isRun }));
    return [
      ...(begins ? [{ key: `day ${day}`, day }] : []),
      ...(isRun ? [{ key: `run ${id}`, run }] : []),
      ...(!isRun || open.has(id) ? events : []),
    ];
  });
}

/** From one day's midnight to the next. */
function dayOnly(day: number): Record<string, string | null> {
  return { from: dateOfDay(day), to: dateOfDay(day + 1), period: null };
}

interface RowProps {
  /** What the virtual rows know it by. */
  at: VirtualRow;
  narrow: (changes: Record<string, string | null>) => string;
  zone: string;
}

function RunRow({
  at,
  run,
  open,
  onToggle,
  narrow,
  zone,
}: RowProps & { run: Run<LogLine>; open: boolean; onToggle: () => void }) {
  const [row] = run.rows;
  const courses = [...new Set(run.rows.map((row) => row.course))].join(', ');
  const items = new Set(run.rows.map((row) => row.item_id).filter(Boolean));
  return (
    <Table.Tr {...at} className={classes.run}>
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

function EventRow({ at, row, inside, narrow, zone }: RowProps & { row: LogLine; inside: boolean }) {
  return (
    <Table.Tr {...at} className={inside ? classes.inside : undefined}>
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
