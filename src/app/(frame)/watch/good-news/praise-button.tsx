'use client';

import { Button } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { usePending } from '../../../_frame/use-pending';
import { startWriting } from '../../write/actions';

interface Props {
  /** The learner's number. */
  learner: number;
  name: string;
  /** What the message begins with. */
  praise: { subject: string; body: string };
  here: string;
}

/** Begins a message that names what somebody did. */
export function PraiseButton({ learner, name, praise, here }: Props) {
  const [pending, start] = usePending();
  return (
    <Button
      variant="default"
      size="compact-sm"
      loading={pending}
      aria-label={`Write to ${name}`}
      onClick={() =>
        start(async () => {
          const refused = await startWriting([learner], here, praise);
          if (refused) notifications.show({ title: 'No message was begun', message: refused, color: 'red' });
        })
      }
    >
      Write
    </Button>
  );
}
