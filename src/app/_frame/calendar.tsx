'use client';

import '@mantine/dates/styles.layer.css';
import { DatePicker } from '@mantine/dates';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';
import { moveByKey } from '@/core/time/calendar-keys';
import { dateOfDay, dayFromDate } from '@/core/time/zone';

interface Props {
  value: string | null;
  today: string;
  min?: string | null;
  max?: string | null;
  onPick: (date: string | null) => void;
}

/** A month to pick a day from; weeks begin on Monday, the keys go by days, weeks and months. */
export default function Calendar({ value, today, min, max, onPick }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [focused, setFocused] = useState(value ?? today);
  const [shown, setShown] = useState(value ?? today);
  // The day that a key leads to may stand in a month that is only now drawn.
  useEffect(() => box.current?.querySelector<HTMLElement>(`[data-date="${focused}"]`)?.focus(), [focused]);
  const onKeyDown = (event: KeyboardEvent) => {
    const day = dayFromDate((event.target as HTMLElement).dataset.date ?? '');
    const next = day === null ? null : moveByKey(day, event.key);
    if (next === null) return;
    event.preventDefault();
    event.stopPropagation();
    const date = dateOfDay(next);
    if ((min && date < min) || (max && date > max)) return;
    setShown(date);
    setFocused(date);
  };
  return (
    <div ref={box} onKeyDownCapture={onKeyDown}>
      <DatePicker
        value={value}
        date={shown}
        onDateChange={setShown}
        minDate={min ?? undefined}
        maxDate={max ?? undefined}
        firstDayOfWeek={1}
        hideOutsideDates
        // No day is worse than another.
        weekendDays={[]}
        getDayProps={(date) => ({
          'data-date': date,
          // The programme's today, not the browser's.
          'aria-current': date === today ? ('date' as const) : undefined,
          style: date === today ? { fontWeight: 700, textDecoration: 'underline' } : undefined,
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
    </div>
  );
}
