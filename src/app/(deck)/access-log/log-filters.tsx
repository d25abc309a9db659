'use client';

import { Autocomplete, Button, CloseButton, Group, NativeSelect, Popover, Stack } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useRef, useState } from 'react';
import { ACTION_KINDS } from '@/core/access/kinds';
import type { Found } from '@/server/people/find';
import { DayRange } from '../../_deck/day-range';
import { linkTo } from '../../_deck/list-link';
import { PERIOD_CHOICES } from '../../_deck/periods';
import { useGo } from '../../_deck/use-go';
import type { LogParams } from './log-params';
import classes from './access-log.module.css';

type Choice = { value: string; label: string };

interface Props {
  params: LogParams;
  /** Names of the learner and item that the link names by id. */
  labels: { learner?: string; item?: string };
  /** The period in words. */
  period: string | null;
  courses: Choice[];
  groups: Choice[];
  organisations: Choice[];
  units: string[];
  actions: string[];
}

type Changes = Record<string, string | undefined>;

/** Each filter as a sentence. */
function sentences({ params, labels, period }: Props): [says: string, cleared: Changes][] {
  const own: [string | undefined, string, Changes][] = [
    [params.learner, labels.learner ?? params.learner ?? '', { learner: undefined }],
    [params.course, `Course ${params.course}`, { course: undefined }],
    [params.group, `Group ${params.group}`, { group: undefined }],
    [params.organisation, params.organisation ?? '', { organisation: undefined }],
    [params.item, `On ${labels.item ?? params.item}`, { item: undefined }],
    [params.unit, `Items of ${params.unit}`, { unit: undefined }],
    [params.kind, `Kind ${params.kind}`, { kind: undefined }],
    [params.action, `Action ${params.action?.replaceAll('_', ' ')}`, { action: undefined }],
    [params.staff, params.staff === 'only' ? 'Staff only' : 'With staff', { staff: undefined }],
    [
      params.period ?? params.from ?? params.to,
      period === null ? 'Period' : period[0].toUpperCase() + period.slice(1),
      { period: undefined, from: undefined, to: undefined },
    ],
  ];
  return own.filter(([value]) => value).map(([, says, cleared]) => [says, cleared]);
}

/** What narrows the log, as sentences; all of it lives in the link. */
export function LogFilters(props: Props) {
  const { params } = props;
  const { pending, go } = useGo('/access-log', params);
  const own = sentences(props);
  return (
    <div className={classes.filters} aria-busy={pending}>
      {own.map(([says, cleared]) => (
        <span key={says} className={classes.sentence}>
          <bdi>{says}</bdi>
          <CloseButton size="xs" aria-label={`Clear: ${says}`} onClick={() => go(cleared)} />
        </span>
      ))}
      <AddFilter {...props} add={go} />
      {own.length > 1 && <Link href={linkTo('/access-log', { in: params.in, as_of: params.as_of })}>clear all</Link>}
    </div>
  );
}

function AddFilter({ add, ...props }: Props & { add: (changes: Changes) => void }) {
  const { params, courses, groups, organisations, units, actions } = props;
  const [opened, setOpened] = useState(false);
  const go = (changes: Changes) => {
    setOpened(false);
    add(changes);
  };
  const choose = (name: keyof LogParams, label: string, data: readonly Choice[], alongside: Changes = {}) =>
    data.length > 0 && (
      <NativeSelect
        size="xs"
        label={label}
        value={params[name] ?? ''}
        onChange={(event) => go({ [name]: event.currentTarget.value || undefined, ...alongside })}
        data={[{ value: '', label: 'any' }, ...data]}
      />
    );
  const plain = (values: readonly string[]) => values.map((value) => ({ value, label: value.replaceAll('_', ' ') }));
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-start" shadow="md" trapFocus width={360}>
      <Popover.Target>
        <Button variant="default" onClick={() => setOpened(!opened)}>
          Add a filter
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap={8}>
          <SomeoneOrItem onPick={go} />
          <Group gap={8} grow>
            {choose('course', 'Course', courses, { group: undefined, unit: undefined, item: undefined })}
            {choose('group', 'Group', groups, { course: undefined })}
          </Group>
          {choose('organisation', 'Organisation', organisations)}
          {choose('unit', 'Unit', plain(units))}
          <Group gap={8} grow>
            {choose('kind', 'Kind', plain(ACTION_KINDS), { action: undefined })}
            {choose('action', 'Action', plain(actions), { kind: undefined })}
          </Group>
          <Group gap={8} grow>
            {choose('period', 'Period', PERIOD_CHOICES, { from: undefined, to: undefined })}
            <NativeSelect
              size="xs"
              label="Staff"
              value={params.staff ?? ''}
              onChange={(event) => go({ staff: event.currentTarget.value || undefined })}
              data={[
                { value: '', label: 'left out' },
                { value: 'yes', label: 'shown too' },
                { value: 'only', label: 'only' },
              ]}
            />
          </Group>
          <DayRange from={params.from} to={params.to} onPick={(range) => go({ period: undefined, ...range })} />
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}

/** Finds a learner or an item by any part of its name. */
function SomeoneOrItem({ onPick }: { onPick: (changes: Changes) => void }) {
  const [text, setText] = useState('');
  const [found, setFound] = useState<{ value: string; changes: Changes }[]>([]);
  const asked = useRef(0);
  const look = useDebouncedCallback(async (q: string) => {
    const turn = (asked.current += 1);
    const answer = q ? await fetch(linkTo('/find', { q })).catch(() => null) : null;
    if (turn !== asked.current) return;
    if (!answer?.ok) return setFound([]);
    const { learners, items }: Found = await answer.json();
    setFound([
      ...learners.map((one) => ({ value: `${one.name} · ${one.learnerId}`, changes: { learner: one.learnerId } })),
      ...items.map((one) => ({
        value: `${one.item} · ${one.course} ${one.item_id}`,
        changes: { course: one.course, item: one.item_id, group: undefined },
      })),
    ]);
  }, 150);
  return (
    <Autocomplete
      size="xs"
      label="Learner or item"
      placeholder="Any part of a name or id"
      value={text}
      data={found.map((one) => one.value)}
      filter={({ options }) => options}
      maxLength={200}
      comboboxProps={{ withinPortal: false }}
      onChange={(value) => {
        setText(value);
        const picked = found.find((one) => one.value === value);
        if (picked) onPick(picked.changes);
        else look(value.trim());
      }}
    />
  );
}
