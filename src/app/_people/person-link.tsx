import Link from 'next/link';
import type { ReactNode } from 'react';

/** A learner's name, which leads to their page. */
export function PersonLink({ learnerId, name }: { learnerId: string; name: ReactNode }) {
  return (
    <Link href={`/learners/${encodeURIComponent(learnerId)}`}>
      <bdi>{name}</bdi>
    </Link>
  );
}
