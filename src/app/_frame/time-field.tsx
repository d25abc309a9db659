'use client';

import { TextInput, type TextInputProps } from '@mantine/core';
import { useState } from 'react';
import { readTypedTime } from '@/core/time/typed';

interface Props extends Pick<TextInputProps, 'label' | 'aria-label' | 'error' | 'size' | 'w'> {
  /** HH:MM, or what was typed and cannot be read. */
  value: string;
  onChange: (value: string) => void;
}

/** A time of day on the 24-hour clock, however it is typed: 9, 9.30, 1830, 6 pm. */
export function TimeField({ value, onChange, error, ...rest }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed === null && value !== '' && readTypedTime(value) === null;
  return (
    <TextInput
      {...rest}
      autoComplete="off"
      value={typed ?? value}
      error={error ?? (wrong ? 'is no time: write it as 9:30 or 18:00' : null)}
      maxLength={12}
      onChange={(event) => {
        const text = event.currentTarget.value;
        setTyped(text);
        onChange(readTypedTime(text) ?? text.trim());
      }}
      onBlur={() => setTyped(null)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') setTyped(null);
      }}
    />
  );
}
