'use client';

import { useRouter } from 'next/navigation';
import { useMemo } from 'react';
import type { BandEdges } from '@/core/drift/bands';
import type { Part } from '@/core/drift/order';
import { unpackPerson, type PackedPerson } from '@/core/drift/shoreline';
import { Shoreline } from '@/ui/shoreline';
import { linkTo } from '../../_list/list-link';
import classes from './watch.module.css';

interface Props {
  people: PackedPerson[];
  edges: BandEdges;
  segmentKey: string | null;
  asOf: string | null;
  part: Part;
  drift: readonly [number, number] | null;
}

/** The Shoreline over the list: dragging across it narrows the list, through the link. */
export function WatchShoreline({ people, edges, segmentKey, asOf, part, drift }: Props) {
  const router = useRouter();
  const unpacked = useMemo(() => people.map(unpackPerson), [people]);
  const kept = { in: segmentKey, as_of: asOf };
  return (
    <div className={classes.shoreline}>
      <Shoreline
        people={unpacked}
        edges={edges}
        chosen={drift}
        onChoose={([from, to]) =>
          router.push(linkTo('/watch', { ...kept, part: part === 'now' ? null : part, drift: `${from}-${to}` }))
        }
        names={() => fetch(linkTo('/watch/names', kept)).then((answer) => answer.json())}
        onOpen={(learnerId) => router.push(linkTo(`/learners/${encodeURIComponent(learnerId)}`, { as_of: asOf }))}
      />
    </div>
  );
}
