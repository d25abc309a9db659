'use client';

import { Button } from '@mantine/core';
import { useTransition } from 'react';
import { startWriting } from './actions';

/** Opens a message to some learners. */
export function WriteButton({ learnerIds, back }: { learnerIds: number[]; back: string }) {
  const [pending, startTransition] = useTransition();
  return (
    <Button loading={pending} onClick={() => startTransition(() => startWriting(learnerIds, back))}>
      Write
    </Button>
  );
}
