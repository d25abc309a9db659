'use client';

import { Button, type ButtonProps } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import type { ReactNode } from 'react';
import { usePending } from '../../_frame/use-pending';
import { startWriting } from './actions';

interface Props extends ButtonProps {
  /** Numbers of learners. */
  learners: number[];
  /** What the message begins with. */
  begin: Parameters<typeof startWriting>[2];
  here: string;
  'aria-label'?: string;
  children: ReactNode;
}

/** A button that begins a message and goes to it. */
export function StartWriting({ learners, begin, here, children, ...button }: Props) {
  const [pending, start] = usePending();
  return (
    <Button
      variant="default"
      {...button}
      loading={pending}
      onClick={() =>
        start(async () => {
          const refused = await startWriting(learners, here, begin);
          if (refused) notifications.show({ title: 'No message was begun', message: refused, color: 'red' });
        })
      }
    >
      {children}
    </Button>
  );
}
