'use client';

import { Group, Input } from '@mantine/core';
import { useState } from 'react';
import { DayField } from './day-field';
import { TimeField } from './time-field';

interface Props {
  label: string;
  description?: string;
  error?: string;
  /** A day without a time means its end, as with what falls due. */
  atEnd?: boolean;
  /** A local time such as 2026-11-24T09:30; empty for none. */
  value: string;
  onChange: (value: string) => void;
}

const END = '23:59';

/** A day and a time of it, in the programme's zone. */
export function InstantField({ label, description, error, atEnd = false, value, onChange }: Props) {
  const [day, setDay] = useState(value.slice(0, 10));
  const [time, setTime] = useState(value.slice(11));
  const change = (newDay: string, newTime: string) => {
    setDay(newDay);
    setTime(newTime);
    onChange(newDay === '' && newTime === '' ? '' : `${newDay}T${newTime}`);
  };
  return (
    <Input.Wrapper label={label} description={description} error={error} labelElement="div">
      <Group gap={8} align="start" wrap="nowrap" role="group" aria-label={label}>
        <DayField
          aria-label={`${label}, day`}
          value={day}
          onChange={(newDay) => change(newDay, newDay && !time && atEnd ? END : time)}
          w={170}
        />
        <TimeField aria-label={`${label}, time`} value={time} onChange={(newTime) => change(day, newTime)} w={90} />
      </Group>
    </Input.Wrapper>
  );
}
