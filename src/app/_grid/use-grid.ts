'use client';

import { useMediaQuery } from '@mantine/hooks';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent } from 'react';

export interface Cursor {
  row: number;
  column: number;
}

interface Options {
  rows: number;
  columns: number;
  columnWidth: number;
  /** Whether later rows may come, and how they are asked for. */
  goesOn: boolean;
  onNear: () => Promise<void>;
  onOpen: (row: number, column: number) => void;
  onSelect: (row: number) => void;
  /** Begin at the last columns. */
  fromEnd?: boolean;
}

/** Px of a row; under a thumb it is as high as one. */
const ROW_HEIGHT = { mouse: 23, thumb: 45 };
/** Px of a column under a thumb, at least. */
const THUMB = 44;
/** Rows that are left when later ones are asked for. */
const NEAR = 20;

/** Which rows and columns of a grid are drawn, the cell under the cursor, and its keys. */
export function useGrid({
  rows: count,
  columns: across,
  columnWidth: usualWidth,
  goesOn,
  onNear,
  onOpen,
  onSelect,
  fromEnd,
}: Options) {
  const frame = useRef<HTMLDivElement>(null);
  const [cursor, setCursor] = useState<Cursor>({ row: 0, column: fromEnd ? Math.max(0, across - 1) : 0 });
  const isNarrow = useMediaQuery('(max-width: 640px)', false);
  const columnWidth = isNarrow ? Math.max(THUMB, usualWidth) : usualWidth;
  const rowHeight = isNarrow ? ROW_HEIGHT.thumb : ROW_HEIGHT.mouse;
  const rows = useVirtualizer({
    count,
    getScrollElement: () => frame.current,
    estimateSize: () => rowHeight,
    overscan: 3,
  });
  const columns = useVirtualizer({
    horizontal: true,
    count: across,
    getScrollElement: () => frame.current,
    estimateSize: () => columnWidth,
    overscan: 1,
  });
  useEffect(() => rows.measure(), [rows, rowHeight]);
  useEffect(() => columns.measure(), [columns, columnWidth]);
  const shownRows = rows.getVirtualItems();
  const shownColumns = columns.getVirtualItems();
  const lastRow = shownRows.at(-1)?.index ?? 0;
  useEffect(() => {
    if (goesOn && lastRow > count - NEAR) void onNear();
  }, [goesOn, lastRow, count, onNear]);
  useEffect(() => {
    if (fromEnd) columns.scrollToIndex(across - 1, { align: 'end' });
    // eslint-disable-next-line react-hooks/exhaustive-deps
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
  return {
    frame,
    cursor,
    setCursor,
    onKeyDown,
    shownRows,
    shownColumns,
    isColumnShown: (first: number, many: number) => first <= lastColumn && first + many > firstColumn,
    width,
    height: count * rowHeight,
    rowHeight,
    columnWidth,
  };
}
