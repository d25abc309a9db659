'use client';

import { useHotkeys } from '@mantine/hooks';
import { useRouter } from 'next/navigation';

/** j and k go through the list one came from. */
export function NeighbourKeys({ previous, next }: { previous: string | null; next: string | null }) {
  const router = useRouter();
  useHotkeys([
    ['j', () => next && router.push(next)],
    ['k', () => previous && router.push(previous)],
  ]);
  return null;
}
