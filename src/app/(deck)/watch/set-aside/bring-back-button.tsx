'use client';

import { Button } from '@mantine/core';
import { useTransition } from 'react';
import { bringThemBack } from '../../../_people/actions';

/** Puts a learner back on one's Watch at once. */
export function BringBackButton({ learnerId }: { learnerId: number }) {
  const [pending, startTransition] = useTransition();
  const go = () =>
    startTransition(async () => {
      await bringThemBack([learnerId]);
    });
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={go}>
      Put back
    </Button>
  );
}
