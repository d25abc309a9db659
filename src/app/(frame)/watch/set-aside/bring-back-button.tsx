'use client';

import { Button } from '@mantine/core';
import { useAction } from '../../../_frame/use-action';
import { bringBack } from '../../../_people/actions';

/** Puts a learner back on one's Watch at once. */
export function BringBackButton({ learnerId }: { learnerId: number }) {
  const { pending, run } = useAction();
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={() => run(() => bringBack([learnerId]))}>
      Put back
    </Button>
  );
}
