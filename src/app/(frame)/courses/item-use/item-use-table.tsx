'use client';

import { Table, TableTbody, TableTh, TableThead, TableTr } from '@mantine/core';
import Link from 'next/link';
import { Fragment, useMemo } from 'react';
import { itemUseNotice, sayItemUseNotice } from '@/core/item-use/item-use';
import { unpackRows, type PackedRows } from '@/core/rows';
import { sayDay, sayInstant, sayLength } from '@/core/time/words';
import { dateOfDay, dayOf } from '@/core/time/zone';
import type { ItemUseRow } from '@/data/item-use/item-use';
import type { Period } from '@/server/request/period';
import { linkTo } from '../../../_list/list-link';
import { SortHead } from '../../../_list/rows';
import classes from '../courses.module.css';

interface Props {
  rows: PackedRows<ItemUseRow>;
  params: Record<string, string | undefined>;
  columns: readonly { title: string; sort?: string }[];
  period: Period;
  group?: string;
  organisation?: string;
  weekAgo: number;
  /** The share of openers that comes back to a usual item. */
  usual: number;
  zone: string;
  now: number;
}

/** On a narrow screen: the item, who has opened it, who never has. */
const NARROW = ['openers', 'never'];

/** Every item with how far it has got; each number leads to the people or the events behind it. */
export function ItemUseTable(props: Props) {
  const { params, columns, zone, now } = props;
  const rows = useMemo(() => unpackRows(props.rows), [props.rows]);
  const sorted = (params.sort ?? 'outline').replace('-', '');
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label="Items">
      <Table stickyHeader>
        <TableThead>
          <TableTr>
            {columns.map(({ title, sort = 'outline' }) => (
              <SortHead
                key={title}
                path="/courses/item-use"
                params={params}
                columns={[{ title, sort }]}
                usual="outline"
                first={sort === 'outline' ? 'ascending' : 'descending'}
                className={headClass(sort)}
              />
            ))}
          </TableTr>
        </TableThead>
        <TableTbody>
          {rows.map((row, index) => (
            <Fragment key={`${row.course}/${row.item_id}`}>
              {sorted === 'outline' && (index === 0 || rows[index - 1].unit !== row.unit) && (
                <TableTr className={classes.unit}>
                  <TableTh colSpan={9} scope="rowgroup">
                    {row.unit === null ? (
                      'In no unit'
                    ) : (
                      <Link href={linkTo('/access-log', { course: row.course, unit: row.unit, in: params.in })}>
                        {row.unit}
                      </Link>
                    )}
                  </TableTh>
                </TableTr>
              )}
              <CapacityLine {...props} row={row} zone={zone} now={now} />
            </Fragment>
          ))}
        </TableTbody>
      </Table>
    </div>
  );
}

function headClass(sort: string): string | undefined {
  if (sort === 'outline' || sort === 'openers') return undefined;
  return NARROW.includes(sort) ? classes.figure : `${classes.figure} ${classes.wideOnly}`;
}

function CapacityLine({
  row,
  params,
  period,
  group,
  organisation,
  weekAgo,
  usual,
  zone,
  now,
}: Omit<Props, 'rows'> & { row: ItemUseRow }) {
  const notice = row.kind === 'session' ? null : itemUseNotice(row, now, usual);
  const part = { course: row.course, in: params.in };
  const iso = (at: number | undefined) => (at === undefined ? null : new Date(at).toISOString());
  const within = { from: iso(period.from), to: iso(period.to) };
  const name = `${row.course}/${row.item_id}`;
  const date = (at: number | undefined) => (at === undefined ? null : dateOfDay(dayOf(at, zone)));
  // The same people as are counted: enrolled now, in the part looked at, over the same whole days.
  const list = (which: 'opened' | 'not_opened', since: Record<string, string | null> = {}) =>
    linkTo('/learners', {
      course: group ? null : row.course,
      group,
      organisation,
      [which]: name,
      opened_from: date(period.from),
      opened_to: date(period.to === undefined ? undefined : period.to - 1),
      ...since,
    });
  const change = row.openers - row.openers_week_ago;
  const day = (at: number | null) =>
    at === null ? (
      <span className={classes.soft}>never</span>
    ) : (
      <span title={sayInstant(at, zone, now)}>{sayDay(dayOf(at, zone), dayOf(now, zone))}</span>
    );
  const share = row.base === 0 ? 0 : row.openers / row.base;
  return (
    <tr id={`item-${encodeURIComponent(row.item_id)}`} className={classes.line}>
      <td>
        <Link href={linkTo('/access-log', { ...part, item: row.item_id, ...within })}>
          <bdi>{row.item}</bdi>
        </Link>{' '}
        <span className={classes.soft}>{row.kind}</span>
        {notice && (
          <div className={notice === 'nobody' ? classes.alarm : classes.soft}>
            {sayItemUseNotice(notice, row, zone, now)}
          </div>
        )}
      </td>
      <td>
        <div className={classes.opened}>
          <meter
            className={classes.share}
            value={Math.round(100 * share)}
            max={100}
            aria-label={`${Math.round(100 * share)} %`}
          />
          <Link href={list('opened')}>{`${row.openers} of ${row.base}`}</Link>
        </div>
      </td>
      <td>
        {change > 0 ? (
          <Link href={list('opened', { first_opened_since: iso(weekAgo) })}>{`+${change}`}</Link>
        ) : (
          <span className={classes.soft}>0</span>
        )}
      </td>
      <td>
        <Link href={list('not_opened')}>{row.base - row.openers}</Link>
      </td>
      <td>
        {row.changed_at === null ? (
          ''
        ) : (
          <Link
            href={list('opened', { opened_since: iso(row.changed_at) })}
            title={`Changed ${sayInstant(row.changed_at, zone, now)}`}
          >
            {row.opened_since_changed}
          </Link>
        )}
      </td>
      <td>
        {/* By whoever is enrolled now; the log, behind the item's title, has everybody's. */}
        {row.opens.toLocaleString('en-GB')}
      </td>
      <td>{row.ms === 0 ? '0 min' : sayLength(row.ms)}</td>
      <td>{day(row.first_opened)}</td>
      <td>{day(row.last_opened)}</td>
    </tr>
  );
}
