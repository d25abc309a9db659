'use client';

import dynamic from 'next/dynamic';
import type { ComponentProps } from 'react';
import { DayRange } from '../../_frame/day-range';
import { FilterBar } from '../../_list/filter-bar';

const SomeoneOrItem = dynamic(() => import('./someone-or-item').then((module) => module.SomeoneOrItem), { ssr: false });

/** What narrows the log: beside what every list has, somebody or something by name, and any days. */
export function LogFilters(props: ComponentProps<typeof FilterBar>) {
  const { from, to } = props.params;
  return (
    <FilterBar
      {...props}
      above={(add) => <SomeoneOrItem onPick={add} />}
      below={(add) => (
        <DayRange from={from} to={to} onPick={(range) => add({ period: undefined, from: range.from, to: range.to })} />
      )}
    />
  );
}
