'use client';

import { Button } from '@mantine/core';
import { useAction } from '../../../_frame/use-action';
import { cancelTrial } from './actions';

/** Ends a trial that is waiting or under way: nothing of it is kept but that it was asked for. */
export function CancelButton({ id }: { id: number }) {
  const { pending, run } = useAction();
  return (
    <Button
      variant="default"
      size="compact-xs"
      loading={pending}
      onClick={() => run(() => cancelTrial(id), { failed: 'It was not cancelled' })}
    >
      Cancel
    </Button>
  );
}
