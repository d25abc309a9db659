'use client';

import { Switch } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useTransition } from 'react';
import { switchLetters } from './actions';

/** Whether single letters do something, for whoever speaks to the machine or strikes keys by chance. */
export function LettersSwitch({ on }: { on: boolean }) {
  const [pending, startTransition] = useTransition();
  return (
    <Switch
      label="Single letters do something: w writes, l logs a call; ? lists them"
      description="Off, everything is reached by its button, and lists by the arrows as before."
      checked={on}
      disabled={pending}
      onChange={(event) => {
        const wanted = event.currentTarget.checked;
        startTransition(async () => {
          const result = await switchLetters(wanted);
          if (!result.ok) notifications.show({ title: 'It was not kept', message: result.says, color: 'red' });
        });
      }}
    />
  );
}
