'use client';

import { UnstyledButton } from '@mantine/core';
import { usePending } from './use-pending';
import { switchNames } from './actions';

/** Replaces every name, id, e-mail and phone by stand-ins, for sharing the screen. */
export function NamesSwitch({ namesHidden }: { namesHidden: boolean }) {
  const [pending, start] = usePending();
  return (
    <UnstyledButton
      fz={12}
      c="inherit"
      role="switch"
      aria-checked={namesHidden}
      disabled={pending}
      title="Replace every name, id, e-mail and phone by a stand-in, for sharing the screen"
      onClick={() => start(() => switchNames(!namesHidden))}
    >
      Names hidden: {namesHidden ? 'on' : 'off'}
    </UnstyledButton>
  );
}
