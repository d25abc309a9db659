import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, renderHook, waitFor } from '@testing-library/react';
import { createElement, type ReactNode } from 'react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { printPage } from './printing';
import { useEndless } from './use-endless';

let asked: string[];
let respond: (path: string) => Response | Promise<Response>;

beforeEach(() => {
  asked = [];
  vi.stubGlobal('fetch', async (path: string) => {
    asked.push(path);
    return respond(path);
  });
  vi.stubGlobal(
    'IntersectionObserver',
    class {
      observe() {}
      disconnect() {}
      unobserve() {}
    },
  );
  window.print = vi.fn();
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

/** Pages of two, from a list of numbers. */
const list = (count: number) => (path: string) => {
  const from = Number(new URL(path, 'http://a').searchParams.get('cursor'));
  const lines = [from, from + 1].filter((row) => row < count);
  return Response.json({ lines, next: from + 2 < count ? String(from + 2) : null });
};

function open(first: number[], next: string | null) {
  const client = new QueryClient();
  return renderHook(({ rows, from }) => useEndless(rows, from, '/lists/x/rows', { course: 'DRY' }), {
    initialProps: { rows: first, from: next },
    wrapper: ({ children }: { children: ReactNode }) => createElement(QueryClientProvider, { client }, children),
  });
}

it('goes on from where the page ends, with what the list is asked for, to its end', async () => {
  respond = list(5);
  const { result } = open([0, 1], '2');
  expect(result.current).toMatchObject({ all: [0, 1], goesOn: true });
  await act(() => result.current.load());
  await waitFor(() => expect(result.current.all).toEqual([0, 1, 2, 3]));
  await act(() => result.current.load());
  await waitFor(() => expect(result.current.goesOn).toBe(false));
  expect(result.current.all).toEqual([0, 1, 2, 3, 4]);
  expect(asked).toEqual(['/lists/x/rows?course=DRY&cursor=2', '/lists/x/rows?course=DRY&cursor=4']);
});

it('loads all of it anew when the page comes anew: no row twice, none as it was', async () => {
  respond = list(6);
  const { result, rerender } = open([0, 1], '2');
  await act(() => result.current.load());
  // Somebody has left the list: what stood third stands second.
  respond = (path) =>
    Response.json(path.endsWith('cursor=3') ? { lines: [3, 4], next: null } : { lines: ['stale'], next: null });
  rerender({ rows: [1, 2], from: '3' });
  await waitFor(() => expect(result.current.all).toEqual([1, 2, 3, 4]));
  expect(result.current.goesOn).toBe(false);
});

it('says that the next rows did not come, and takes them when asked again', async () => {
  respond = () => new Response('', { status: 500 });
  const { result } = open([0, 1], '2');
  await act(() => result.current.load());
  await waitFor(() => expect(result.current.failed).toBe(true));
  expect(result.current.all).toEqual([0, 1]);
  respond = list(3);
  await act(() => result.current.load());
  await waitFor(() => expect(result.current).toMatchObject({ failed: false, all: [0, 1, 2] }));
});

it('is whole before it is printed', async () => {
  respond = list(9);
  const { result } = open([0, 1], '2');
  await act(() => printPage());
  expect(window.print).toHaveBeenCalledTimes(1);
  await waitFor(() => expect(result.current.all).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8]));
});

it('is printed as far as it has come where the rest does not come', async () => {
  respond = () => new Response('', { status: 500 });
  const { result } = open([0, 1], '2');
  await act(() => printPage());
  expect(window.print).toHaveBeenCalledTimes(1);
  expect(result.current.all).toEqual([0, 1]);
});
