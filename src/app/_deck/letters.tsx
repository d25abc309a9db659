'use client';

import { useHotkeys, type HotkeyItem } from '@mantine/hooks';
import { createContext, useContext, type ReactNode } from 'react';

const Letters = createContext(true);

/** Whether single letters do something, as somebody has set it for themselves (WCAG 2.2, 2.1.4). */
export function LettersProvider({ on, children }: { on: boolean; children: ReactNode }) {
  return <Letters.Provider value={on}>{children}</Letters.Provider>;
}

/** Single letters that do something, never while one types, and not where they are switched off. */
export function useLetters(keys: HotkeyItem[]): void {
  useHotkeys(useContext(Letters) ? keys : []);
}
