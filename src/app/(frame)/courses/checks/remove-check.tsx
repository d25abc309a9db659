'use client';

import { Button } from '@mantine/core';
import { offerUndo } from '../../../_frame/offer-undo';
import { useDoing } from '../../../_frame/use-doing';
import { bringTheCheckBack, dropTheCheck } from '../who-did/actions';

/** Removes a check, with an undo. */
export function RemoveCheck({ id, name }: { id: number; name: string }) {
  const { pending, perform } = useDoing();
  const remove = () =>
    perform(() => dropTheCheck(id), {
      failed: 'It was not removed',
      then: (gone) => offerUndo(`“${name}” removed`, () => perform(() => bringTheCheckBack(gone))),
    });
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={remove} aria-label={`Remove ${name}`}>
      Remove
    </Button>
  );
}
