'use client';

import { UnstyledButton } from '@mantine/core';
import { useTransition } from 'react';
import { switchCover } from './actions';

/** Replaces every name, id, e-mail and phone by stand-ins, for sharing the screen. */
export function CoverSwitch({ covered }: { covered: boolean }) {
  const [pending, startTransition] = useTransition();
  return (
    <UnstyledButton
      fz={12}
      c="inherit"
      role="switch"
      aria-checked={covered}
      disabled={pending}
      title="Replace every name, id, e-mail and phone by a stand-in, for sharing the screen"
      onClick={() => startTransition(() => switchCover(!covered))}
    >
      Names covered: {covered ? 'on' : 'off'}
    </UnstyledButton>
  );
}
