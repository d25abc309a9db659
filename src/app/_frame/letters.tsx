'use client';

import { useHotkeys, type HotkeyItem } from '@mantine/hooks';
import { createContext, useContext, type ReactNode } from 'react';

const Letters = createContext(true);

/** Whether single letters do something, as somebody has set it for themselves (WCAG 2.2, 2.1.4). */
export function LettersProvider({ on, children }: { on: boolean; children: ReactNode }) {
  return <Letters.Provider value={on}>{children}</Letters.Provider>;
}

/** Does somebody type in it? A box that is ticked or a button is no field of text. */
export function isTypedIn(target: EventTarget | null): boolean {
  return target instanceof HTMLInputElement && !['checkbox', 'radio', 'button', 'submit'].includes(target.type);
}

/** Is a dialog asking something? What lies under it waits. */
function isAsked(target: EventTarget | null): boolean {
  return target instanceof Element && target.closest('.mantine-Modal-root') !== null;
}

/** Single letters that do something, never while one types or is asked something, and not where they are switched off. */
export function useLetters(keys: HotkeyItem[]): void {
  const guarded = keys.map(([key, handle]): HotkeyItem => [
    key,
    (event) => {
      if (isTypedIn(event.target) || isAsked(event.target)) return;
      event.preventDefault();
      handle(event);
    },
    { preventDefault: false },
  ]);
  useHotkeys(useContext(Letters) ? guarded : [], ['TEXTAREA', 'SELECT']);
}
