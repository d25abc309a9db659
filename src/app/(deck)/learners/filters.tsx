'use client';

import { Button, CloseButton, Group, NativeSelect, NumberInput, Popover, Stack, TextInput } from '@mantine/core';
import { useDebouncedCallback } from '@mantine/hooks';
import Link from 'next/link';
import { useState } from 'react';
import { sayDay } from '@/core/time/words';
import { dayFromDate } from '@/core/time/zone';
import { linkTo } from '../../_deck/list-link';
import { useGo } from '../../_deck/use-go';
import classes from './learners.module.css';

type Params = Partial<Record<string, string>>;
type Choice = { value: string; label: string };

interface Props {
  params: Params;
  courses: Choice[];
  groups: Choice[];
  organisations: Choice[];
}

const BANDS = ['adrift', 'slipping', 'on course', 'no reading'];

/** What stands beside an opened item and goes with it. */
const OPENED_WHEN = {
  opened_from: undefined,
  opened_to: undefined,
  opened_since: undefined,
  first_opened_since: undefined,
};

function sayOpenedWhen({ opened_from, opened_to, opened_since, first_opened_since }: Params): string {
  const day = (date: string) => sayDay(dayFromDate(date.slice(0, 10)) ?? 0);
  const days =
    opened_from && opened_from === opened_to
      ? ` on ${day(opened_from)}`
      : `${opened_from ? ` from ${day(opened_from)}` : ''}${opened_to ? ` to ${day(opened_to)}` : ''}`;
  const since = opened_since ? `, last since ${day(opened_since)}` : '';
  return `${days}${since}${first_opened_since ? `, first since ${day(first_opened_since)}` : ''}`;
}

/** Each filter as a sentence. */
const SENTENCES: Record<string, (value: string, params: Params) => string> = {
  quiet: (days) => `Quiet ${days} days or more`,
  never: () => 'Never accessed',
  enrolled_weeks: (weeks) => `Enrolled more than ${weeks} weeks ago`,
  not_contacted: (days) => `Not contacted for ${days} days`,
  band: (band) => band[0].toUpperCase() + band.slice(1),
  course: (code) => `Course ${code}`,
  group: (name) => `Group ${name}`,
  organisation: (name) => name,
  opened: (item, params) => `Opened ${item}${sayOpenedWhen(params)}`,
  not_opened: (item, params) =>
    params.opened_from || params.opened_to ? `Did not open ${item}${sayOpenedWhen(params)}` : `Never opened ${item}`,
  status: () => 'With those who have left',
};

/** Search as one types, and the filters as sentences; all of it lives in the link. */
export function Filters({ params, courses, groups, organisations }: Props) {
  const [q, setQ] = useState(params.q ?? '');
  const { pending, go } = useGo('/learners', params);
  const search = useDebouncedCallback((text: string) => go({ q: text.trim() || undefined }, 'replace'), 200);
  const own = Object.entries(SENTENCES).filter(([name]) => params[name]);
  return (
    <div className={classes.filters} aria-busy={pending}>
      <TextInput
        w={250}
        size="xs"
        aria-label="Narrow by any part of name, id, e-mail or phone"
        placeholder="Name, id, e-mail or phone"
        value={q}
        maxLength={200}
        onChange={(event) => {
          setQ(event.currentTarget.value);
          search(event.currentTarget.value);
        }}
      />
      {own.map(([name, say]) => (
        <span key={name} className={classes.sentence}>
          {say(params[name]!, params)}
          <CloseButton
            size="xs"
            aria-label={`Clear: ${say(params[name]!, params)}`}
            onClick={() => go({ [name]: undefined, ...(name.endsWith('opened') ? OPENED_WHEN : {}) })}
          />
        </span>
      ))}
      {params.not_opened && (
        <Link href={linkTo('/learners', { ...params, not_opened: null, opened: params.not_opened })}>
          who has opened it
        </Link>
      )}
      {params.opened && (
        <Link
          href={linkTo('/learners', {
            ...params,
            opened: null,
            opened_since: null,
            first_opened_since: null,
            not_opened: params.opened,
          })}
        >
          who has not
        </Link>
      )}
      <AddFilter params={params} courses={courses} groups={groups} organisations={organisations} add={go} />
      {(own.length > 1 || (own.length > 0 && params.q)) && (
        <Link
          href={linkTo('/learners', { in: params.in, as_of: params.as_of, sort: params.sort, limit: params.limit })}
          onClick={() => setQ('')}
        >
          clear all
        </Link>
      )}
    </div>
  );
}

/** The filters that can be added, with any number of days or weeks. */
function AddFilter({ params, courses, groups, organisations, add }: Props & { add: (changes: Params) => void }) {
  const [opened, setOpened] = useState(false);
  const go = (changes: Params) => {
    setOpened(false);
    add(changes);
  };
  const choose = (name: string, label: string, data: Choice[], alongside: Params = {}) =>
    data.length > 0 && (
      <NativeSelect
        size="xs"
        label={label}
        value={params[name] ?? ''}
        onChange={(event) => go({ [name]: event.currentTarget.value, ...alongside })}
        data={[{ value: '', label: 'any' }, ...data]}
      />
    );
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-start" shadow="md" trapFocus width={330}>
      <Popover.Target>
        <Button variant="default" onClick={() => setOpened(!opened)}>
          Add a filter
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap={8}>
          <Count label="Quiet, days or more" start={params.quiet ?? '7'} onAdd={(quiet) => go({ quiet })} />
          <Count
            label="Not contacted, days"
            start={params.not_contacted ?? '14'}
            onAdd={(not_contacted) => go({ not_contacted })}
          />
          <Count
            label="Enrolled more than, weeks ago"
            start={params.enrolled_weeks ?? '4'}
            onAdd={(enrolled_weeks) => go({ enrolled_weeks })}
          />
          <Group gap={6}>
            <Button variant="default" size="compact-xs" onClick={() => go({ never: 'yes' })}>
              Never accessed
            </Button>
            <Button variant="default" size="compact-xs" onClick={() => go({ status: 'all' })}>
              With those who have left
            </Button>
          </Group>
          <Group gap={6} role="group" aria-label="Band">
            {BANDS.map((band) => (
              <Button key={band} variant="default" size="compact-xs" onClick={() => go({ band })}>
                {band}
              </Button>
            ))}
          </Group>
          {choose('course', 'Course', courses, { group: undefined })}
          {choose('group', 'Group', groups, { course: undefined })}
          {choose('organisation', 'Organisation', organisations)}
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}

function Count({ label, start, onAdd }: { label: string; start: string; onAdd: (value: string) => void }) {
  const [value, setValue] = useState<string | number>(Number(start));
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
