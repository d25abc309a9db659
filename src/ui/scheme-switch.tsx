'use client';

import { UnstyledButton, useMantineColorScheme } from '@mantine/core';
import { useSyncExternalStore } from 'react';

const NEXT = { auto: 'light', light: 'dark', dark: 'auto' } as const;
const WORDS = { auto: 'Light or dark: as the system', light: 'Light', dark: 'Dark' } as const;
const nothing = () => () => undefined;

/** Goes through light, dark and the system's own choice. */
export function SchemeSwitch() {
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  // The choice is kept in the browser, so the server cannot know the word yet.
  const here = useSyncExternalStore(
    nothing,
    () => true,
    () => false,
  );
  return (
    <UnstyledButton
      onClick={() => setColorScheme(NEXT[colorScheme])}
      fz={12}
      c="inherit"
      title="Change the colour scheme"
    >
      {here ? WORDS[colorScheme] : WORDS.auto}
    </UnstyledButton>
  );
}
