'use client';

import { Button, Popover, TextInput } from '@mantine/core';
import { useState } from 'react';
import { useOpening, type Target } from '../../_frame/opens-later';
import { usePending } from '../../_frame/use-pending';
import { saveCapacity } from './actions';

/** How many people one can contact in a week. */
export function CapacityForm({ capacity, target: button }: { capacity: number; target: Target }) {
  const [value, setValue] = useState(String(capacity));
  const [trouble, setTrouble] = useState<string | null>(null);
  const { opened, setOpened, target } = useOpening(button);
  const [pending, start] = usePending();
  const keep = () =>
    start(async () => {
      const result = await saveCapacity(value);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) setOpened(false);
    });
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" trapFocus>
      <Popover.Target>{target}</Popover.Target>
      <Popover.Dropdown>
        <TextInput
          label="How many people you can contact in a week"
          inputMode="numeric"
          value={value}
          error={trouble}
          onChange={(event) => setValue(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && keep()}
        />
        <Button mt="xs" onClick={keep} loading={pending}>
          Save
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
