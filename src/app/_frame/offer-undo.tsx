'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';

/** How long an undo is offered, in ms. */
export const UNDO_TIME = 10_000;

/** Shows what was done, with its undo for ten seconds. */
export function offerUndo(says: string, undo: () => void) {
  const id = notifications.show({
    title: says,
    autoClose: UNDO_TIME,
    message: (
      <Button
        variant="default"
        mt={4}
        onClick={() => {
          notifications.hide(id);
          undo();
        }}
      >
        Undo
      </Button>
    ),
  });
  return id;
}
