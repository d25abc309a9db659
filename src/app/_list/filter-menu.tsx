'use client';

import { Button, Group, NativeSelect, NumberInput, Popover, Stack } from '@mantine/core';
import { useState } from 'react';
import type { ShownControl } from '@/server/request/list';
import { useOpening, type Target } from '../_frame/opens-later';
import type { Changes, FilterBarProps } from './filter-bar';
import '@mantine/core/styles/NumberInput.layer.css';

type Props = Pick<FilterBarProps, 'params' | 'controls' | 'above' | 'below'> & {
  add: (changes: Changes) => void;
  target: Target;
};

/** The ways to narrow a list that it does not show already. */
export function FilterMenu({ params, controls, above, below, add, target: button }: Props) {
  const { opened, setOpened, target } = useOpening(button);
  const go = (changes: Changes) => {
    setOpened(false);
    add(changes);
  };
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-start" shadow="md" trapFocus width={360}>
      <Popover.Target>{target}</Popover.Target>
      <Popover.Dropdown>
        <Stack gap={8}>
          {above?.(go)}
          {inRows(controls).map((row) => (
            <Group key={row[0].name} gap={8} grow={row[0].as !== 'press'} align="end">
              {row.map((control) => (
                <FilterControl
                  key={control.name}
                  control={control}
                  value={params[control.name]}
                  onSet={(value) =>
                    go({
                      ...Object.fromEntries(control.replaces.map((name) => [name, undefined])),
                      [control.name]: value,
                    })
                  }
                />
              ))}
            </Group>
          ))}
          {below?.(go)}
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}

/** Controls that stand beside each other: two choices, and presses as many as follow each other. */
function inRows(controls: readonly ShownControl[]): ShownControl[][] {
  const rows: ShownControl[][] = [];
  for (const control of controls) {
    const row = rows.at(-1);
    const isBeside =
      row?.[0].as === control.as && ((control.as === 'choice' && row.length < 2) || control.as === 'press');
    if (isBeside) row.push(control);
    else rows.push([control]);
  }
  return rows;
}

interface ControlProps {
  control: ShownControl;
  value?: string;
  onSet: (value: string | undefined) => void;
}

function FilterControl({ control, value, onSet }: ControlProps) {
  const { label } = control;
  const press = (one: string, says: string) => (
    <Button key={one} variant="default" size="compact-xs" onClick={() => onSet(one)}>
      {says}
    </Button>
  );
  switch (control.as) {
    case 'count':
      return <Count label={label} start={Number(value ?? control.start)} onAdd={onSet} />;
    case 'press':
      return press(control.value, label);
    case 'presses':
      return (
        <Group gap={6} role="group" aria-label={label}>
          {control.values.map((value) => press(value, value))}
        </Group>
      );
    case 'choice':
      return (
        <NativeSelect
          size="xs"
          label={label}
          value={value ?? ''}
          onChange={(event) => onSet(event.currentTarget.value || undefined)}
          data={[{ value: '', label: control.none ?? 'any' }, ...control.choices]}
        />
      );
  }
}

function Count({ label, start, onAdd }: { label: string; start: number; onAdd: (value: string) => void }) {
  const [value, setValue] = useState<string | number>(start);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (value !== '') onAdd(String(value));
      }}
    >
      <Group align="end" gap={6} wrap="nowrap">
        <NumberInput size="xs" label={label} min={0} max={999} allowDecimal={false} value={value} onChange={setValue} />
        <Button type="submit" variant="default" aria-label={`Add: ${label}`}>
          Add
        </Button>
      </Group>
    </form>
  );
}
