'use client';

import { Button } from '@mantine/core';
import { useAction } from '../../../_frame/use-action';
import { pinNote } from '../actions';

/** Pins a note, so that the next mentor reads it first, or takes the pin away. */
export function PinNote({ id, isPinned }: { id: number; isPinned: boolean }) {
  const { pending, run } = useAction();
  return (
    <Button
      variant="subtle"
      size="compact-xs"
      loading={pending}
      onClick={() =>
        run(() => pinNote(id, !isPinned), { failed: isPinned ? 'It is still pinned' : 'It was not pinned' })
      }
    >
      {isPinned ? 'Take the pin away' : 'Pin'}
    </Button>
  );
}
