'use client';

import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { DayField } from './day-field';
import classes from './frame.module.css';

interface Props {
  /** As the link has them: `to` is the day after the last one. */
  from?: string;
  to?: string;
  onPick: (range: { from?: string; to?: string }) => void;
}

/** A day, or a range of them, both included. */
export function DayRange({ from, to, onPick }: Props) {
  const end = dayFromDate(to?.slice(0, 10) ?? '');
  const [start, setStart] = useState(from?.slice(0, 10) ?? '');
  const [stop, setStop] = useState(end === null ? '' : dateOfDay(end - 1));
  const [first, last] = [dayFromDate(start), dayFromDate(stop)];
  const wrong = first !== null && last !== null && last < first;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (wrong || (first === null && last === null)) return;
        onPick({ from: first === null ? undefined : start, to: last === null ? undefined : dateOfDay(last + 1) });
      }}
    >
      <Group gap={8} align="end" wrap="nowrap">
        <DayField size="xs" label="From" value={start} onChange={setStart} nested />
        <DayField size="xs" label="To" value={stop} onChange={setStop} nested />
        <Button type="submit" variant="default" disabled={wrong} flex="none">
          Show
        </Button>
      </Group>
      {wrong && (
        <p role="alert" className={classes.wrong}>
          The period ends before it starts.
        </p>
      )}
    </form>
  );
}
