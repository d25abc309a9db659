'use client';

import { Table } from '@mantine/core';
import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { sayDay } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import type { DailyOpens } from '@/server/item-use/opens';
import { linkTo } from '../../../_list/list-link';
import classes from '../courses.module.css';

// The charts' library comes when one is drawn: the box is there, and the figures stand in the table.
const OpensPlot = dynamic(() => import('./opens-plot').then((module) => module.OpensPlot), { ssr: false });

interface Props extends DailyOpens {
  course: string;
  group?: string;
  params: Record<string, string | undefined>;
  zone: string;
  zoneNow: number;
  asTable: boolean;
  /** Days on which the log is incomplete. */
  gaps: readonly (readonly [number, number])[];
}

/** Told apart by lightness, so also without colour; the legend and the table say which is which. */
const COLOURS = [
  'var(--water)',
  'var(--chart-2)',
  'var(--chart-3)',
  'var(--chart-4)',
  'var(--chart-5)',
  'var(--chart-6)',
];
const BY = [
  ['kind', 'by kind'],
  ['group', 'by group'],
  ['role', 'learners and staff'],
] as const;
const WEEKS = [
  ['1', '1 week'],
  ['2', '2 weeks'],
  ['4', '4 weeks'],
  ['8', '8 weeks'],
  ['all', 'the whole course'],
] as const;

/** Opens per day, stacked; each bar leads to its events. */
export function OpensChart({ days, series, by, weeks, course, group, params, zone, zoneNow, asTable, gaps }: Props) {
  const isGap = (day: number) => gaps.some(([from, to]) => day >= from && day <= to);
  const router = useRouter();
  const today = dayOf(zoneNow, zone);
  const link = (changes: Record<string, string | null>) => linkTo('/courses/item-use', { ...params, ...changes });
  const log = (day: number, name: string) =>
    linkTo('/access-log', {
      course,
      in: params.in,
      group: by === 'group' && name !== 'no group' ? `${course}/${name}` : group,
      kind: by === 'kind' ? name : 'opens',
      staff: by === 'role' && name === 'staff' ? 'only' : null,
      from: dateOfDay(day),
      to: dateOfDay(day + 1),
    });
  const data = days.map(({ day, opens }) => ({ label: sayDay(day, today), gap: isGap(day), ...opens }));
  const incomplete = data.filter(({ gap }) => gap);
  const total = days.reduce((sum, { opens }) => sum + Object.values(opens).reduce((a, b) => a + b, 0), 0);
  const choice = (name: string, current: string, all: readonly (readonly [string, string])[]) =>
    all.map(([value, title]) => (
      <Link
        key={value}
        scroll={false}
        href={link({ [name]: value })}
        aria-current={value === current ? 'true' : undefined}
      >
        {title}
      </Link>
    ));
  return (
    <figure className={classes.chart}>
      <figcaption className={classes.chartHead}>
        <strong>Opens per day</strong>
        <span className={classes.choices}>{choice('by', by, BY)}</span>
        <span className={classes.choices}>{choice('weeks', weeks, WEEKS)}</span>
        <span className={classes.choices}>
          <Link scroll={false} href={link({ table: asTable ? null : 'yes' })}>
            {asTable ? 'Show as chart' : 'Show as table'}
          </Link>
          <a href={linkTo('/courses/item-use/opens', { ...params, format: 'csv' })}>CSV</a>
        </span>
      </figcaption>
      {total === 0 && <p className={classes.soft}>Nothing was opened in these days.</p>}
      {total > 0 && asTable && (
        <div className={classes.tableBox} tabIndex={0} role="group" aria-label="Opens per day as a table">
          <Table verticalSpacing={2} withRowBorders={false}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Day</Table.Th>
                {series.map((name) => (
                  <Table.Th key={name} ta="right">
                    {name}
                  </Table.Th>
                ))}
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {days.map(({ day, opens }) => (
                <Table.Tr key={day}>
                  <Table.Td>
                    {sayDay(day, today)}
                    {isGap(day) && <span className={classes.soft}> log incomplete</span>}
                  </Table.Td>
                  {series.map((name) => (
                    <Table.Td key={name} ta="right">
                      {opens[name] === 0 ? 0 : <Link href={log(day, name)}>{opens[name].toLocaleString('en-GB')}</Link>}
                    </Table.Td>
                  ))}
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </div>
      )}
      {total > 0 && !asTable && (
        <>
          <div className={classes.legend} aria-hidden="true">
            <span className={classes.soft}>opens</span>
            {series.map((name, index) => (
              <span key={name}>
                <i style={{ background: COLOURS[index % COLOURS.length] }} />
                {name}
              </span>
            ))}
          </div>
          <div
            className={classes.chartBox}
            role="img"
            aria-label={`Opens per day ${sayDay(days[0].day, today)} to ${sayDay(days.at(-1)!.day, today)}: ${total.toLocaleString('en-GB')} in all. The table has each day’s figures.`}
          >
            <OpensPlot
              data={data}
              series={series}
              colours={COLOURS}
              incomplete={incomplete.map(({ label }) => label)}
              onOpen={(place, name) => router.push(log(days[place].day, name))}
            />
          </div>
          <p className={classes.soft}>
            Events of {by === 'role' ? 'learners and staff' : 'learners'} that looked, worked or talked; a bar leads to
            its events in the log.{incomplete.length > 0 && ' Grey: the log is incomplete on these days.'}
          </p>
        </>
      )}
    </figure>
  );
}
