'use client';

import { useEffect, useRef, type RefObject } from 'react';

interface Options {
  /** The rows' elements, in order; each can take the focus. */
  rows: RefObject<(HTMLElement | null)[]>;
  cursor: number;
  /** How many rows there are; none for no list. */
  count: number;
  onGo: (index: number) => void;
  onOpen: () => void;
  onSelect: () => void;
}

/**
 * The keys of a list of rows, as the WAI-ARIA practices have them for a grid: arrows, Home and End move, Enter opens
 * and Space selects. They hold while the focus is in a row; an arrow where nothing has the focus leads into the list.
 */
export function useListKeys(options: Options): void {
  const latest = useRef(options);
  useEffect(() => {
    latest.current = options;
  });
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent) => {
      const { rows, cursor, count, onGo, onOpen, onSelect } = latest.current;
      if (count === 0 || event.defaultPrevented || event.ctrlKey || event.metaKey || event.altKey) return;
      const target = event.target as HTMLElement;
      const row = rows.current.find((one) => one?.contains(target));
      const isIdle = target === document.body;
      if (!row && !isIdle) return;
      const to = (index: number) => {
        const next = Math.min(count - 1, Math.max(0, index));
        onGo(next);
        rows.current[next]?.focus();
      };
      const moves: Record<string, () => void> = {
        ArrowDown: () => to(isIdle ? cursor : cursor + 1),
        ArrowUp: () => to(isIdle ? cursor : cursor - 1),
        ...(isIdle ? {} : { Home: () => to(0), End: () => to(count - 1) }),
        // A link, a button or a box in the row does its own work.
        ...(target === row ? { Enter: onOpen, ' ': onSelect } : {}),
      };
      const move = moves[event.key];
      if (!move || target.matches('input:not([type=checkbox]), textarea, select')) return;
      event.preventDefault();
      move();
    };
    document.addEventListener('keydown', onKeyDown);
    return () => document.removeEventListener('keydown', onKeyDown);
  }, []);
}
