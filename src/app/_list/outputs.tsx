'use client';

import { Button } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import type { Params } from '@/server/request/list';
import { linkTo } from './list-link';
import classes from './list.module.css';
import { printPage } from './printing';

/** Prints all of the page's list, fetched first where only its beginning is there. */
export function PrintButton() {
  const [isFetching, setFetching] = useState(false);
  const print = async () => {
    setFetching(true);
    await printPage().finally(() => setFetching(false));
  };
  return (
    <Button variant="default" size="compact-sm" loading={isFetching} onClick={() => void print()}>
      Print
    </Button>
  );
}

interface Props {
  /** The list's name in its address, or the whole address of another file. */
  list: string;
  params: Params | Record<string, string | null | undefined>;
  /** What else there is to take away. */
  children?: ReactNode;
}

/** What can be taken away of a page, alike on every page: on paper, as CSV, as XLSX. */
export function Outputs({ list, params, children }: Props) {
  const path = list.startsWith('/') ? list : `/lists/${list}/export`;
  return (
    <span className={classes.outputs}>
      {children}
      <PrintButton />
      {['csv', 'xlsx'].map((format) => (
        <Button
          key={format}
          component="a"
          variant="default"
          size="compact-sm"
          href={linkTo(path, { ...params, format })}
        >
          {format.toUpperCase()}
        </Button>
      ))}
    </span>
  );
}
