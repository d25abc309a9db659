'use client';

import { ActionIcon, Popover, TextInput, type TextInputProps } from '@mantine/core';
import { useUncontrolled } from '@mantine/hooks';
import { IconCalendar } from '@tabler/icons-react';
import dynamic from 'next/dynamic';
import { useState } from 'react';
import { readTypedDay } from '@/core/time/typed';
import { sayDay } from '@/core/time/words';
import { dateOfDay, dayFromDate } from '@/core/time/zone';
import { useToday } from './today';

// The calendar is half of what dates bring along, and is fetched when one is opened.
const Calendar = dynamic(() => import('./calendar'), { ssr: false, loading: () => 'Calendar …' });

interface Props extends Pick<TextInputProps, 'label' | 'aria-label' | 'description' | 'error' | 'size' | 'w' | 'id'> {
  /** A date such as 2026-11-24; empty for none; what cannot be read, as it was typed. */
  value?: string;
  defaultValue?: string;
  onChange?: (value: string) => void;
  /** Hears of a day that is picked, or left after typing: for what acts on it at once. */
  onPick?: (date: string) => void;
  /** Its name in a form that is sent as it stands. */
  name?: string;
  /** The first and the last date that make sense. */
  min?: string | null;
  max?: string | null;
  /** It stands in something that closes on a press outside, so its calendar stays within. */
  nested?: boolean;
  autoFocus?: boolean;
}

/** What is wrong with a day, in words; null where nothing is. */
function faultOf(value: string, day: number | null, min: number | null, max: number | null): string | null {
  if (value === '') return null;
  if (day === null) return 'is no day: write it as 24 Nov, 24/11/2026, fri or tomorrow';
  if (min !== null && day < min) return `lies before ${sayDay(min, day)}`;
  return max !== null && day > max ? `lies after ${sayDay(max, day)}` : null;
}

/**
 * A day: typed in any of several ways, or picked. It is said in our words once it is understood.
 *
 * @example <DayField label="Follow up on" value={due} onChange={setDue} />
 */
export function DayField(props: Props) {
  const { value, defaultValue, onChange, onPick, name, min, max, nested, error, autoFocus, ...rest } = props;
  const today = useToday();
  const [date, setDate] = useUncontrolled({ value, defaultValue, finalValue: '', onChange });
  const [typed, setTyped] = useState<string | null>(null);
  const [opened, setOpened] = useState(false);
  const day = dayFromDate(date);
  const [first, last] = [dayFromDate(min ?? ''), dayFromDate(max ?? '')];
  const pick = (picked: string | null) => {
    setTyped(null);
    setDate(picked ?? '');
    setOpened(false);
    if (picked !== null) onPick?.(picked);
  };
  return (
    <Popover
      opened={opened}
      onChange={setOpened}
      position="bottom-end"
      shadow="md"
      trapFocus
      returnFocus
      withinPortal={!nested}
    >
      <TextInput
        {...rest}
        autoComplete="off"
        data-autofocus={autoFocus || undefined}
        value={typed ?? (day === null ? date : sayDay(day, today))}
        error={error ?? (typed === null ? faultOf(date, day, first, last) : null)}
        maxLength={40}
        onChange={(event) => {
          const text = event.currentTarget.value;
          const read = readTypedDay(text, today);
          setTyped(text);
          setDate(read === null ? text.trim() : dateOfDay(read));
        }}
        onBlur={() => {
          if (typed !== null && day !== null) onPick?.(date);
          setTyped(null);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter') setTyped(null);
          if (event.key !== 'ArrowDown') return;
          event.preventDefault();
          setOpened(true);
        }}
        rightSection={
          <Popover.Target>
            <ActionIcon variant="subtle" size="sm" aria-label="Open the calendar" onClick={() => setOpened(!opened)}>
              <IconCalendar size={15} />
            </ActionIcon>
          </Popover.Target>
        }
      />
      <Popover.Dropdown>
        <Calendar value={day === null ? null : date} today={dateOfDay(today)} min={min} max={max} onPick={pick} />
      </Popover.Dropdown>
      {name && <input type="hidden" name={name} value={date} />}
    </Popover>
  );
}
