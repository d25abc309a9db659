'use client';

import { useHotkeys } from '@mantine/hooks';
import { useRouter } from 'next/navigation';
import { startTransition } from 'react';
import { startWriting } from '../../write/actions';

interface Props {
  previous: string | null;
  next: string | null;
  learnerId: number;
  back: string;
}

/** j and k go through the list one came from, w writes. */
export function NeighbourKeys({ previous, next, learnerId, back }: Props) {
  const router = useRouter();
  useHotkeys([
    ['j', () => next && router.push(next)],
    ['k', () => previous && router.push(previous)],
    ['w', () => startTransition(async () => void (await startWriting([learnerId], back)))],
  ]);
  return null;
}
