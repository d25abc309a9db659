'use client';

import { Button } from '@mantine/core';
import { useDoing } from '../../../_frame/use-doing';
import { cancelTheTrial } from './actions';

/** Ends a trial that is waiting or under way: nothing of it is kept but that it was asked for. */
export function CancelButton({ id }: { id: number }) {
  const { pending, perform } = useDoing();
  return (
    <Button
      variant="default"
      size="compact-xs"
      loading={pending}
      onClick={() => perform(() => cancelTheTrial(id), { failed: 'It was not cancelled' })}
    >
      Cancel
    </Button>
  );
}
