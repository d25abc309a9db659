'use client';

import { Button } from '@mantine/core';
import { offerUndo } from '../../../_frame/offer-undo';
import { useDoing } from '../../../_frame/use-doing';
import { dropNote } from '../actions';

/** Takes a note of one's own away, with an undo. */
export function RemoveNote({ id }: { id: number }) {
  const { pending, perform } = useDoing();
  const remove = () =>
    perform(() => dropNote(id, true), {
      failed: 'It was not removed',
      then: () => offerUndo('Note removed', () => perform(() => dropNote(id, false))),
    });
  return (
    <Button variant="subtle" size="compact-xs" loading={pending} onClick={remove}>
      Remove
    </Button>
  );
}
