'use client';

import { useRouter } from 'next/navigation';
import type { ShorelinePerson } from '@/core/drift/shoreline';
import { Shoreline } from '@/ui/shoreline';
import classes from './watch.module.css';

interface Props {
  people: ShorelinePerson[];
  lensKey: string | null;
  drift: readonly [number, number] | null;
}

/** The Shoreline over the list: dragging across it narrows the list, through the link. */
export function WatchShoreline({ people, lensKey, drift }: Props) {
  const router = useRouter();
  const part = lensKey ? `in=${encodeURIComponent(lensKey)}` : '';
  return (
    <div className={classes.shoreline}>
      <Shoreline
        people={people}
        chosen={drift}
        onChoose={([from, to]) => router.push(`/watch?${part}${part && '&'}drift=${from}-${to}`)}
        names={() => fetch(`/watch/names?${part}`).then((answer) => answer.json())}
        onOpen={(learnerId) => router.push(`/learners/${encodeURIComponent(learnerId)}`)}
      />
    </div>
  );
}
