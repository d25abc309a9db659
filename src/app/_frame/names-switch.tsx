'use client';

import { UnstyledButton } from '@mantine/core';
import { useDeed } from './use-deed';
import { switchNames } from './actions';

/** Replaces every name, id, e-mail and phone by stand-ins, for sharing the screen. */
export function NamesSwitch({ namesHidden }: { namesHidden: boolean }) {
  const [pending, startDeed] = useDeed();
  return (
    <UnstyledButton
      fz={12}
      c="inherit"
      role="switch"
      aria-checked={namesHidden}
      disabled={pending}
      title="Replace every name, id, e-mail and phone by a stand-in, for sharing the screen"
      onClick={() => startDeed(() => switchNames(!namesHidden))}
    >
      Names hidden: {namesHidden ? 'on' : 'off'}
    </UnstyledButton>
  );
}
