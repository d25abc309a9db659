'use client';

import { Button, CloseButton, Group, NativeSelect, NumberInput, Popover, Stack, TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useState, type ReactNode } from 'react';
import type { Params, Sentence, ShownControl } from '@/server/request/list';
import { linkTo } from './list-link';
import { useGo } from './use-go';
import classes from './list.module.css';

type Changes = Params;

interface Props {
  path: string;
  params: Params;
  sentences: readonly Sentence[];
  controls: readonly ShownControl[];
  /** What can be typed to narrow the list as one types; without it there is no such field. */
  search?: { label: string; placeholder: string };
  /** More ways to add a filter, above the others or below. */
  above?: (add: (changes: Changes) => void) => ReactNode;
  below?: (add: (changes: Changes) => void) => ReactNode;
}

/** What stays when all filters are cleared. */
const NO_FILTERS = ['in', 'as_of', 'sort', 'limit', 'fold'];

/** What narrows a list, as sentences, and the ways to add to it; all of it lives in the link. */
export function FilterBar({ path, params, sentences, controls, search, above, below }: Props) {
  const [q, setQ] = useState(params.q ?? '');
  const { pending, go } = useGo(path, params);
  const narrow = useDebouncedCallback((text: string) => go({ q: text.trim() || undefined }, 'replace'), 200);
  const all = Object.fromEntries(NO_FILTERS.map((name) => [name, params[name]]));
  return (
    <div className={classes.filters} aria-busy={pending}>
      {search && (
        <TextInput
          w={250}
          size="xs"
          aria-label={search.label}
          placeholder={search.placeholder}
          value={q}
          maxLength={200}
          onChange={(event) => {
            setQ(event.currentTarget.value);
            narrow(event.currentTarget.value);
          }}
        />
      )}
      {sentences.map(({ says, clears }) => (
        <span key={says} className={classes.sentence}>
          <bdi>{says}</bdi>
          <CloseButton
            size="xs"
            aria-label={`Clear: ${says}`}
            onClick={() => go(Object.fromEntries(clears.map((name) => [name, undefined])))}
          />
        </span>
      ))}
      {sentences.map(
        ({ turned }) =>
          turned && (
            <Link key={turned.says} href={linkTo(path, turned.params)}>
              {turned.says}
            </Link>
          ),
      )}
      {controls.length > 0 && <AddFilter {...{ params, controls, above, below }} add={go} />}
      {(sentences.length > 1 || (sentences.length > 0 && params.q)) && (
        <Link href={linkTo(path, all)} onClick={() => setQ('')}>
          clear all
        </Link>
      )}
    </div>
  );
}

type AddProps = Pick<Props, 'params' | 'controls' | 'above' | 'below'> & { add: (changes: Changes) => void };

function AddFilter({ params, controls, above, below, add }: AddProps) {
  const [opened, setOpened] = useState(false);
  const go = (changes: Changes) => {
    setOpened(false);
    add(changes);
  };
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-start" shadow="md" trapFocus width={360}>
      <Popover.Target>
        <Button variant="default" onClick={() => setOpened(!opened)}>
          Add a filter
        </Button>
      </Popover.Target>
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
          {control.values.map((one) => press(one, one))}
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
