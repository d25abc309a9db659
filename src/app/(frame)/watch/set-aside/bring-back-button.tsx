'use client';

import { Button } from '@mantine/core';
import { useDoing } from '../../../_frame/use-doing';
import { bringThemBack } from '../../../_people/actions';

/** Puts a learner back on one's Watch at once. */
export function BringBackButton({ learnerId }: { learnerId: number }) {
  const { pending, perform } = useDoing();
  return (
    <Button
      variant="default"
      size="compact-xs"
      loading={pending}
      onClick={() => perform(() => bringThemBack([learnerId]))}
    >
      Put back
    </Button>
  );
}
