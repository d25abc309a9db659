'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useRouter } from 'next/navigation';
import { useTransition } from 'react';
import { offerUndo } from '../../../_people/use-people';
import { bringTheCheckBack, dropTheCheck } from '../has/actions';

/** Removes a check, with an undo. */
export function RemoveCheck({ id, name }: { id: number; name: string }) {
  const [pending, startTransition] = useTransition();
  const router = useRouter();
  const remove = () =>
    startTransition(async () => {
      const gone = await dropTheCheck(id);
      if (!gone.ok) {
        notifications.show({ title: 'It was not removed', message: gone.says, color: 'red' });
        return;
      }
      router.refresh();
      offerUndo(`“${name}” removed`, () =>
        startTransition(async () => {
          await bringTheCheckBack(gone.value);
          router.refresh();
        }),
      );
    });
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={remove} aria-label={`Remove ${name}`}>
      Remove
    </Button>
  );
}
