'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef, useTransition } from 'react';
import { linkTo } from './list-link';

type Params = Record<string, string | undefined>;

/**
 * Changes a list's address a choice at a time. The old rows stay until the new ones have come, and
 * a second choice does not undo one whose rows are still on their way.
 */
export function useGo(path: string, params: Params) {
  const [pending, startTransition] = useTransition();
  const router = useRouter();
  const wanted = useRef<Params>(params);
  useEffect(() => {
    if (!pending) wanted.current = params;
  }, [params, pending]);
  const go = (changes: Params, how: 'push' | 'replace' = 'push') => {
    wanted.current = { ...wanted.current, ...changes };
    const href = linkTo(path, wanted.current);
    startTransition(() => router[how](href, { scroll: false }));
  };
  return { pending, go };
}
