'use client';

import { Button, Switch } from '@mantine/core';
import type { Result } from '@/server/request/action';
import { useAction } from '../../_frame/use-action';
import { cancelMade, endSchedule, setMondayLetter } from './actions';
import '@mantine/core/styles/Switch.layer.css';

/** A button that does one thing to a row and says so. */
function RowButton({ says, done, act }: { says: string; done: string; act: () => Promise<Result> }) {
  const { pending, run } = useAction();
  return (
    <Button variant="default" size="compact-sm" loading={pending} onClick={() => run(act, { done })}>
      {says}
    </Button>
  );
}

/** Cancels a long report that is being made. */
export function CancelMade({ id }: { id: number }) {
  return <RowButton says="Cancel" done="Cancelled" act={() => cancelMade(id)} />;
}

/** Ends what is sent by itself. */
export function EndSchedule({ id }: { id: number }) {
  return <RowButton says="End" done="Not sent any more" act={() => endSchedule(id)} />;
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
