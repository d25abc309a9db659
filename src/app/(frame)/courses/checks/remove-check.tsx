'use client';

import { Button } from '@mantine/core';
import { offerUndo } from '../../../_frame/offer-undo';
import { useAction } from '../../../_frame/use-action';
import { restoreCheck, removeCheck } from '../who-did/actions';

/** Removes a check, with an undo. */
export function RemoveCheck({ id, name }: { id: number; name: string }) {
  const { pending, run } = useAction();
  const remove = () =>
    run(() => removeCheck(id), {
      failed: 'It was not removed',
      then: (gone) => offerUndo(`“${name}” removed`, () => run(() => restoreCheck(gone))),
    });
  return (
    <Button variant="default" size="compact-xs" loading={pending} onClick={remove} aria-label={`Remove ${name}`}>
      Remove
    </Button>
  );
}
