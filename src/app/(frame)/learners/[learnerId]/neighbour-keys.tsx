'use client';

import { useHotkeys } from '@mantine/hooks';
import { useRouter } from 'next/navigation';

/** The arrows to the right and left go through the list one came from. */
export function NeighbourKeys({ previous, next }: { previous: string | null; next: string | null }) {
  const router = useRouter();
  useHotkeys([
    ['ArrowRight', () => next && router.push(next)],
    ['ArrowLeft', () => previous && router.push(previous)],
  ]);
  return null;
}
