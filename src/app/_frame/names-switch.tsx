'use client';

import { UnstyledButton } from '@mantine/core';
import { useDeed } from './use-deed';
import { switchCover } from './actions';

/** Replaces every name, id, e-mail and phone by stand-ins, for sharing the screen. */
export function CoverSwitch({ covered }: { covered: boolean }) {
  const [pending, startDeed] = useDeed();
  return (
    <UnstyledButton
      fz={12}
      c="inherit"
      role="switch"
      aria-checked={covered}
      disabled={pending}
      title="Replace every name, id, e-mail and phone by a stand-in, for sharing the screen"
      onClick={() => startDeed(() => switchCover(!covered))}
    >
      Names covered: {covered ? 'on' : 'off'}
    </UnstyledButton>
  );
}
