'use client';

import { Button, Switch } from '@mantine/core';
import { useAction } from '../../_frame/use-action';
import { endSchedule, setMondayLetter } from './actions';
import '@mantine/core/styles/Switch.layer.css';

export function EndSchedule({ id }: { id: number }) {
  const { pending, run } = useAction();
  return (
    <Button
      variant="default"
      size="compact-sm"
      loading={pending}
      onClick={() => run(() => endSchedule(id), { done: 'Not sent any more' })}
    >
      End
    </Button>
  );
}

/** The Monday letter, on or off. */
export function LetterSwitch({ on }: { on: boolean }) {
  const { pending, run } = useAction();
  return (
    <Switch
      label="Monday letter"
      checked={on}
      disabled={pending}
      onChange={(event) => {
        const wanted = event.currentTarget.checked;
        run(() => setMondayLetter(wanted), { done: wanted ? 'It comes on Monday' : 'No Monday letter any more' });
      }}
    />
  );
}
