'use client';

import '@mantine/dates/styles.layer.css';
import { DatePicker } from '@mantine/dates';
import { useEffect, useRef } from 'react';

interface Props {
  value: string | null;
  today: string;
  min?: string | null;
  max?: string | null;
  onPick: (date: string | null) => void;
}

/** A month to pick a day from; weeks begin on Monday, the arrows go by days and weeks. */
export default function Calendar({ value, today, min, max, onPick }: Props) {
  const box = useRef<HTMLDivElement>(null);
  // It comes after what opened it has looked for something to focus.
  useEffect(() => box.current?.querySelector<HTMLElement>('[data-autofocus]')?.focus(), []);
  return (
    <DatePicker
      ref={box}
      value={value}
      defaultDate={value ?? today}
      minDate={min ?? undefined}
      maxDate={max ?? undefined}
      firstDayOfWeek={1}
      hideOutsideDates
      // No day is worse than another.
      weekendDays={[]}
      // The programme's today, not the browser's.
      getDayProps={(date) => ({
        'aria-current': date === today ? ('date' as const) : undefined,
        style: date === today ? { fontWeight: 700, textDecoration: 'underline' } : undefined,
        'data-autofocus': date === (value ?? today) || undefined,
      })}
      ariaLabels={{
        monthLevelControl: 'Choose a month',
        yearLevelControl: 'Choose a year',
        nextMonth: 'Next month',
        previousMonth: 'Previous month',
        nextYear: 'Next year',
        previousYear: 'Previous year',
        nextDecade: 'Next ten years',
        previousDecade: 'Previous ten years',
      }}
      onChange={onPick}
    />
  );
}
