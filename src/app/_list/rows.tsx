'use client';

import { Button, TableTh } from '@mantine/core';
import Link from 'next/link';
import type { Params } from '@/server/request/list';
import { linkTo } from './list-link';
import classes from './list.module.css';

/** As high as the rows that are not drawn. */
export function Gap({ height, columns }: { height: number; columns: number }) {
  if (height <= 0) return null;
  return (
    <tr aria-hidden="true">
      <td colSpan={columns} style={{ height, padding: 0, border: 0 }} />
    </tr>
  );
}

interface HeadProps {
  path: string;
  params: Params;
  /** Those that stand over each other in one head. */
  columns: readonly { title: string; sort?: string }[];
  className?: string;
  /** What the list is sorted by where its link does not say. */
  usual: string;
  /** The way a column is sorted when it is first pressed. */
  first?: 'ascending' | 'descending';
}

/** A head whose titles sort the list, this way and, pressed again, that way. */
export function SortHead({ path, params, columns, className, usual, first = 'ascending' }: HeadProps) {
  const asked = params.sort ?? usual;
  const isDescending = asked.startsWith('-');
  const sorted = asked.replace('-', '');
  const isSorted = columns.some(({ sort }) => sort === sorted);
  const next = (sort: string) => {
    const descends = sort === sorted ? !isDescending : first === 'descending';
    return descends ? `-${sort}` : sort;
  };
  return (
    <TableTh className={className} aria-sort={isSorted ? (isDescending ? 'descending' : 'ascending') : undefined}>
      {columns.map(({ title, sort }) =>
        sort === undefined ? (
          <span key={title}>{title}</span>
        ) : (
          <Link
            key={sort}
            className={classes.sort}
            scroll={false}
            href={linkTo(path, { ...params, sort: next(sort) === usual ? null : next(sort) })}
          >
            {title}
            {sort === sorted && <span aria-hidden="true">{isDescending ? ' ↓' : ' ↑'}</span>}
          </Link>
        ),
      )}
    </TableTh>
  );
}

interface MoreProps {
  /** Watches for the end of the rows. */
  more: (element: Element | null) => void;
  failed: boolean;
  load: () => void;
  says: string;
}

/** Where later rows will stand, or why they do not. */
export function MoreRows({ more, failed, load, says }: MoreProps) {
  return (
    <div ref={more} className={classes.more}>
      {failed ? (
        <Button variant="default" onClick={load}>
          The next rows did not come. Try again
        </Button>
      ) : (
        says
      )}
    </div>
  );
}
