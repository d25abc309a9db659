'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useTransition } from 'react';
import { startWriting } from './actions';

/** Opens a message to some learners. */
export function WriteButton({ learnerIds, back }: { learnerIds: number[]; back: string }) {
  const [pending, startTransition] = useTransition();
  const write = () =>
    startTransition(async () => {
      const refused = await startWriting(learnerIds, back);
      if (refused) notifications.show({ title: 'No message was begun', message: refused, color: 'red' });
    });
  return (
    <Button loading={pending} onClick={write}>
      Write
    </Button>
  );
}
