import { act, cleanup, renderHook } from '@testing-library/react';
import type { KeyboardEvent } from 'react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { useGrid } from './use-grid';

const onNear = vi.fn(async () => undefined);
const onOpen = vi.fn();
const onSelect = vi.fn();

beforeEach(() => vi.clearAllMocks());
afterEach(cleanup);

const open = (more: Partial<Parameters<typeof useGrid>[0]> = {}) =>
  renderHook(() =>
    useGrid({ rows: 50, columns: 10, columnWidth: 34, goesOn: false, onNear, onOpen, onSelect, ...more }),
  );

/** A key pressed in a cell, unless it is pressed elsewhere. */
function press(key: string, target: Partial<HTMLElement> = { dataset: { cell: '0/0' } as DOMStringMap }) {
  const preventDefault = vi.fn();
  return { event: { key, target, preventDefault } as unknown as KeyboardEvent, preventDefault };
}

it('the arrows, Home, End and the page keys move, and stop at the edges', () => {
  const { result } = open();
  const go = (key: string) => {
    act(() => result.current.onKeyDown(press(key).event));
    return result.current.cursor;
  };
  expect(go('ArrowUp')).toEqual({ row: 0, column: 0 });
  expect(go('ArrowDown')).toEqual({ row: 1, column: 0 });
  expect(go('ArrowRight')).toEqual({ row: 1, column: 1 });
  expect(go('End')).toEqual({ row: 1, column: 9 });
  expect(go('ArrowRight')).toEqual({ row: 1, column: 9 });
  expect(go('PageDown')).toEqual({ row: 21, column: 9 });
  expect(go('PageDown')).toEqual({ row: 41, column: 9 });
  expect(go('PageDown')).toEqual({ row: 49, column: 9 });
  expect(go('Home')).toEqual({ row: 49, column: 0 });
  expect(go('ArrowLeft')).toEqual({ row: 49, column: 0 });
  expect(go('PageUp')).toEqual({ row: 29, column: 0 });
});

it('Enter opens and Space selects where the cursor is; the latest columns come first where that is asked for', () => {
  const { result } = open({ fromEnd: true });
  expect(result.current.cursor).toEqual({ row: 0, column: 9 });
  act(() => result.current.onKeyDown(press('ArrowDown').event));
  act(() => result.current.onKeyDown(press('Enter').event));
  act(() => result.current.onKeyDown(press(' ').event));
  expect(onOpen).toHaveBeenCalledWith(1, 9);
  expect(onSelect).toHaveBeenCalledWith(1);
});

it('leaves keys alone that are not its own, or not pressed in a cell', () => {
  const { result } = open();
  const other = press('x');
  act(() => result.current.onKeyDown(other.event));
  const elsewhere = press('ArrowDown', { dataset: {} as DOMStringMap });
  act(() => result.current.onKeyDown(elsewhere.event));
  expect(other.preventDefault).not.toHaveBeenCalled();
  expect(elsewhere.preventDefault).not.toHaveBeenCalled();
  expect(result.current.cursor).toEqual({ row: 0, column: 0 });
});

it('asks for later rows only while there are any', () => {
  open({ rows: 5, goesOn: false });
  expect(onNear).not.toHaveBeenCalled();
  open({ rows: 5, goesOn: true });
  expect(onNear).toHaveBeenCalled();
});
