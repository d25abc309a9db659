'use client';

import { SegmentedControl, useMantineColorScheme } from '@mantine/core';
import { useSyncExternalStore } from 'react';
import '@mantine/core/styles/FloatingIndicator.layer.css';
import '@mantine/core/styles/SegmentedControl.layer.css';

const CHOICES = [
  { value: 'auto', label: 'as the system' },
  { value: 'light', label: 'light' },
  { value: 'dark', label: 'dark' },
] as const;
const nothing = () => () => undefined;

/** Light, dark or the system's own choice, for this browser. */
export function SchemeSwitch() {
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  // The choice is kept in the browser, so the server cannot know it yet.
  const here = useSyncExternalStore(
    nothing,
    () => true,
    () => false,
  );
  return (
    <SegmentedControl
      aria-label="Colour scheme"
      size="xs"
      data={[...CHOICES]}
      value={here ? colorScheme : 'auto'}
      onChange={setColorScheme}
    />
  );
}
