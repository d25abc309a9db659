'use client';

import { useIntersection } from '@mantine/hooks';
import { useInfiniteQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useId, useMemo, useRef } from 'react';
import { linkTo } from './list-link';
import { usePrintPreparation } from './printing';

interface Answer<T> {
  lines: T[];
  next: string | null;
}

/** Rows that a list brings to paper: more are a file's business. */
const MOST_ON_PAPER = 1000;

async function fetchRows<T>(address: string, signal: AbortSignal): Promise<Answer<T>> {
  const answer = await fetch(address, { signal });
  if (!answer.ok) throw new Error(String(answer.status));
  return answer.json();
}

/**
 * The rows there are, and later ones as one comes near their end. When the page comes anew, after a deed or with news of a
 * colleague's, what was loaded is loaded anew as a whole: no row stands there twice, none with an old cell.
 *
 * @param next the place after which the rows go on; null at the end
 * @param path where later rows are asked for, with the list's own parameters and `cursor`
 * @returns all rows so far, whether there may be more, what to watch for the end (`more`), and a way to try again
 */
export function useEndless<T>(
  first: T[],
  next: string | null,
  path: string,
  params: Record<string, string | null | undefined>,
) {
  const { ref: more, entry } = useIntersection({ rootMargin: '600px' });
  // The first rows come with the page itself.
  const page: Answer<T> = { lines: first, next };
  const latest = useRef(page);
  latest.current = page;
  // Each list that is opened begins with its own page, whatever was seen of it before.
  const listId = useId();
  const { data, hasNextPage, isFetching, isError, isRefetchError, fetchNextPage, refetch } = useInfiniteQuery({
    queryKey: [listId, path, params],
    queryFn: ({ pageParam, signal }) =>
      pageParam === null ? latest.current : fetchRows<T>(linkTo(path, { ...params, cursor: pageParam }), signal),
    initialPageParam: null as string | null,
    getNextPageParam: (last) => last.next,
    initialData: { pages: [page], pageParams: [null] },
    staleTime: Infinity,
    gcTime: 0,
    retry: false,
    networkMode: 'always',
    refetchOnWindowFocus: false,
    refetchOnReconnect: false,
  });
  const shown = useRef(first);
  useEffect(() => {
    if (shown.current !== first) void refetch();
    shown.current = first;
  }, [first, refetch]);
  const isAlone = data.pages.length === 1;
  const later = useMemo(() => data.pages.flatMap(({ lines }) => lines), [data]);
  const load = useCallback(async () => {
    await (isRefetchError ? refetch() : fetchNextPage({ cancelRefetch: false }));
  }, [isRefetchError, refetch, fetchNextPage]);
  usePrintPreparation(async () => {
    let last = { data, hasNextPage, isError: false };
    const count = () => last.data.pages.reduce((sum, { lines }) => sum + lines.length, 0);
    while (last.hasNextPage && !last.isError && count() < MOST_ON_PAPER) {
      const answer = await fetchNextPage({ cancelRefetch: false });
      if (!answer.data) return;
      last = { ...answer, data: answer.data };
    }
  });
  const isNear = Boolean(entry?.isIntersecting);
  useEffect(() => {
    // Once more after each answer: the end of the list may still be in sight.
    if (isNear && hasNextPage && !isFetching && !isError) void load();
  }, [isNear, hasNextPage, isFetching, isError, load]);
  return { all: isAlone ? first : later, goesOn: isAlone ? next !== null : hasNextPage, more, failed: isError, load };
}
