'use client';

import { Button } from '@mantine/core';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { removeNote } from '../actions';

/** Takes a note of one's own away, with an undo. */
export function RemoveNote({ id }: { id: number }) {
  const { pending, run } = useAction();
  const remove = () =>
    run(() => removeNote(id, true), {
      failed: 'It was not removed',
      then: () => offerUndo('Note removed', () => run(() => removeNote(id, false))),
    });
  return (
    <Button variant="subtle" size="compact-xs" loading={pending} onClick={remove}>
      Remove
    </Button>
  );
}
