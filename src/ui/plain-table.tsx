import { Table, TableTbody, type TableProps } from '@mantine/core';
import type { ReactNode } from 'react';
import { Headings } from './headings';
import classes from './plain-table.module.css';

interface Props extends Omit<TableProps, 'data'> {
  /** What it holds, read out. */
  label: string;
  heads: readonly string[];
  /** What a last column of buttons does, read out but not shown. */
  last?: string;
  children: ReactNode;
}

/**
 * A table that is as long as it is: no sorting, no selection. Where it is too wide for the screen, it scrolls by itself.
 *
 * @example <PlainTable label="Breaks" heads={['Course', 'Days']}>{breaks.map(…)}</PlainTable>
 */
export function PlainTable({ label, heads, last, children, ...table }: Props) {
  return (
    <div className={classes.scroll} tabIndex={0} role="group" aria-label={label}>
      <Table {...table}>
        <Headings of={heads} last={last} />
        <TableTbody>{children}</TableTbody>
      </Table>
    </div>
  );
}
