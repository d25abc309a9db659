'use client';

import { useIntersection } from '@mantine/hooks';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { linkTo } from './list-link';

interface Answer<T> {
  lines: T[];
  next: string | null;
}

/**
 * The rows there are, and later ones as one comes near their end.
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
  const [later, setLater] = useState<Answer<T>>({ lines: [], next });
  const [failed, setFailed] = useState(false);
  // Beside the state: whoever asks before the last answer is drawn would ask for the same rows again.
  const place = useRef(next);
  const isLoading = useRef(false);
  const { ref: more, entry } = useIntersection({ rootMargin: '600px' });
  const all = useMemo(() => (later.lines.length === 0 ? first : [...first, ...later.lines]), [first, later]);
  const load = useCallback(async () => {
    if (isLoading.current || place.current === null) return;
    isLoading.current = true;
    setFailed(false);
    try {
      const answer = await fetch(linkTo(path, { ...params, cursor: place.current }));
      if (!answer.ok) throw new Error(String(answer.status));
      const found: Answer<T> = await answer.json();
      place.current = found.next;
      setLater((known) => ({ lines: [...known.lines, ...found.lines], next: found.next }));
    } catch {
      setFailed(true);
    } finally {
      isLoading.current = false;
    }
  }, [path, params]);
  useEffect(() => {
    if (entry?.isIntersecting) void load();
    // Once more after each answer: the end of the list may still be in sight.
  }, [entry, load, later]);
  return { all, goesOn: later.next !== null, more, failed, load };
}
