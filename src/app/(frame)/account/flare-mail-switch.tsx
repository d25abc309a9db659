'use client';

import { Switch } from '@mantine/core';
import { useAction } from '../../_frame/use-action';
import { switchFlareMail } from './actions';
import '@mantine/core/styles/Switch.layer.css';

/** Whether flares come by mail as well. */
export function FlareMailSwitch({ on }: { on: boolean }) {
  const { pending, run } = useAction();
  return (
    <Switch
      label="Flares come by mail as well"
      description="They stand under Flares in any case. Whoever has not marked one as seen is asked again after two working days."
      checked={on}
      disabled={pending}
      onChange={(event) => {
        const wanted = event.currentTarget.checked;
        run(() => switchFlareMail(wanted), { failed: 'It was not kept' });
      }}
    />
  );
}
