'use client';

import { Switch } from '@mantine/core';
import { useAction } from '../../_frame/use-action';
import { switchLetters } from './actions';
import '@mantine/core/styles/Switch.layer.css';

/** Whether single letters do something, for whoever speaks to the machine or strikes keys by chance. */
export function LettersSwitch({ on }: { on: boolean }) {
  const { pending, run } = useAction();
  return (
    <Switch
      label="Single letters do something: w writes, l logs a call; ? lists them"
      description="Off, everything is reached by its button, and lists by the arrows as before."
      checked={on}
      disabled={pending}
      onChange={(event) => {
        const wanted = event.currentTarget.checked;
        run(() => switchLetters(wanted), { failed: 'It was not kept' });
      }}
    />
  );
}
