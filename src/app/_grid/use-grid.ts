'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type CSSProperties, type KeyboardEvent } from 'react';
import { flushSync } from 'react-dom';

export interface Cursor {
  row: number;
  column: number;
}

interface Options {
  rows: number;
  columns: number;
  columnWidth: number;
  /** Px that stay in sight at the left. */
  stick: number;
  /** Whether later rows may come, and how they are asked for. */
  goesOn: boolean;
  onNear: () => Promise<void>;
  onOpen: (row: number, column: number) => void;
  onSelect: (row: number) => void;
  /** Begin at the last columns. */
  fromEnd?: boolean;
}

const ROW_HEIGHT = 23;
/** What a page of paper is wide, in px. */
const PAPER = 1040;
/** Rows that are left when later ones are asked for. */
const NEAR = 20;

/** Which rows and columns of a grid are drawn, the cell under the cursor, its keys, and all of it on paper. */
export function useGrid({
  rows: count,
  columns: across,
  columnWidth,
  stick,
  goesOn,
  onNear,
  onOpen,
  onSelect,
  fromEnd,
}: Options) {
  const frame = useRef<HTMLDivElement>(null);
  const [isPrinting, setPrinting] = useState(false);
  const [cursor, setCursor] = useState<Cursor>({ row: 0, column: fromEnd ? Math.max(0, across - 1) : 0 });
  const rows = useVirtualizer({
    count,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 3,
  });
  const columns = useVirtualizer({
    horizontal: true,
    count: across,
    getScrollElement: () => frame.current,
    estimateSize: () => columnWidth,
    overscan: 1,
  });
  const shownRows = isPrinting
    ? Array.from({ length: count }, (_, index) => ({ index, start: index * ROW_HEIGHT }))
    : rows.getVirtualItems();
  const shownColumns = isPrinting
    ? Array.from({ length: across }, (_, index) => ({ index, start: index * columnWidth }))
    : columns.getVirtualItems();
  const lastRow = shownRows.at(-1)?.index ?? 0;
  useEffect(() => {
    if (goesOn && lastRow > count - NEAR) void onNear();
  }, [goesOn, lastRow, count, onNear]);
  useEffect(() => {
    if (fromEnd) columns.scrollToIndex(across - 1, { align: 'end' });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  useEffect(() => {
    const before = () => flushSync(() => setPrinting(true));
    const after = () => setPrinting(false);
    window.addEventListener('beforeprint', before);
    window.addEventListener('afterprint', after);
    return () => {
      window.removeEventListener('beforeprint', before);
      window.removeEventListener('afterprint', after);
    };
  }, []);
  const focusCell = (row: number, column: number) => {
    const to = { row: Math.min(count - 1, Math.max(0, row)), column: Math.min(across - 1, Math.max(0, column)) };
    setCursor(to);
    rows.scrollToIndex(to.row);
    columns.scrollToIndex(to.column);
    // It may be drawn only now.
    requestAnimationFrame(() =>
      frame.current?.querySelector<HTMLElement>(`[data-cell="${to.row}/${to.column}"]`)?.focus(),
    );
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (!(event.target as HTMLElement).dataset.cell || event.ctrlKey || event.metaKey || event.altKey) return;
    const { row, column } = cursor;
    const does: Record<string, () => void> = {
      ArrowDown: () => focusCell(row + 1, column),
      ArrowUp: () => focusCell(row - 1, column),
      ArrowRight: () => focusCell(row, column + 1),
      ArrowLeft: () => focusCell(row, column - 1),
      PageDown: () => focusCell(row + 20, column),
      PageUp: () => focusCell(row - 20, column),
      Home: () => focusCell(row, 0),
      End: () => focusCell(row, across - 1),
      Enter: () => onOpen(row, column),
      ' ': () => onSelect(row),
    };
    if (!does[event.key]) return;
    event.preventDefault();
    does[event.key]();
  };
  const width = across * columnWidth;
  const [firstColumn, lastColumn] = [shownColumns[0]?.index ?? 0, shownColumns.at(-1)?.index ?? 0];
  // On paper all of it stands beside each other, as small as that takes.
  const paper: CSSProperties | undefined = isPrinting ? { zoom: Math.min(1, PAPER / (stick + width)) } : undefined;
  return {
    frame,
    cursor,
    setCursor,
    onKeyDown,
    shownRows,
    shownColumns,
    isColumnShown: (first: number, many: number) => first <= lastColumn && first + many > firstColumn,
    width,
    height: count * ROW_HEIGHT,
    paper,
  };
}
