'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { offerUndo } from '../../../_people/use-people';
import { dropNote } from '../actions';

/** Takes a note of one's own away, with an undo. */
export function RemoveNote({ id }: { id: number }) {
  const remove = async () => {
    const result = await dropNote(id, true);
    if (!result.ok) notifications.show({ title: 'It was not removed', message: result.says, color: 'red' });
    else offerUndo('Note removed', () => void dropNote(id, false));
  };
  return (
    <Button variant="subtle" size="compact-xs" onClick={remove}>
      Remove
    </Button>
  );
}
