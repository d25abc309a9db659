'use client';

import { Button } from '@mantine/core';
import { useAction } from '../../_frame/use-action';
import { cancelMade } from './actions';

export function CancelMade({ id }: { id: number }) {
  const { pending, run } = useAction();
  return (
    <Button
      variant="default"
      size="compact-sm"
      loading={pending}
      onClick={() => run(() => cancelMade(id), { done: 'Cancelled' })}
    >
      Cancel
    </Button>
  );
}
