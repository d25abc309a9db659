'use client';

import { CloseButton } from '@mantine/core';
import { useState } from 'react';
import { sayDay } from '@/core/time/words';
import { dayFromDate } from '@/core/time/zone';
import { DayRange } from '../../../_frame/day-range';
import { useGo } from '../../../_list/use-go';
import lists from '../../../_list/list.module.css';
import classes from '../reports.module.css';

/** Days of one's own instead of those that move: chosen once, and said as a sentence. */
export function ReportDays({ params }: { params: Record<string, string | undefined> }) {
  const { go } = useGo('/reports/choose', params);
  const [open, setOpen] = useState(false);
  const { from, to } = params;
  const [first, end] = [dayFromDate(from?.slice(0, 10) ?? ''), dayFromDate(to?.slice(0, 10) ?? '')];
  if (from !== undefined || to !== undefined) {
    const says = [first === null ? '' : `from ${sayDay(first)}`, end === null ? '' : `to ${sayDay(end - 1)}`]
      .filter(Boolean)
      .join(' ');
    return (
      <span className={lists.sentence}>
        Days {says}
        <CloseButton size="xs" aria-label="All days" onClick={() => go({ from: undefined, to: undefined })} />
      </span>
    );
  }
  return open ? (
    <DayRange
      onPick={(range) => {
        setOpen(false);
        go({ ...range, days: undefined });
      }}
    />
  ) : (
    <button type="button" className={classes.quiet} onClick={() => setOpen(true)}>
      Days of your own …
    </button>
  );
}
