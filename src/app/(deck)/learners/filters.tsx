'use client';

import { Button, CloseButton, Menu, TextInput } from '@mantine/core';
import { useDebouncedCallback, useHotkeys } from '@mantine/hooks';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState, useTransition } from 'react';
import { linkTo } from '../../_deck/list-link';
import classes from './learners.module.css';

type Params = Partial<Record<string, string>>;

/** Each filter as a sentence. */
const SENTENCES: Record<string, (value: string) => string> = {
  quiet: (days) => `Quiet ${days} days or more`,
  never: () => 'Never accessed',
  enrolled_weeks: (weeks) => `Enrolled more than ${weeks} weeks ago`,
  not_contacted: (days) => `Not contacted for ${days} days`,
  band: (band) => band[0].toUpperCase() + band.slice(1),
};

/** What can be added, by its sentence. */
const CHOICES: [name: string, value: string][] = [
  ['quiet', '3'],
  ['quiet', '7'],
  ['quiet', '14'],
  ['never', 'yes'],
  ['enrolled_weeks', '2'],
  ['enrolled_weeks', '4'],
  ['not_contacted', '7'],
  ['not_contacted', '14'],
  ['band', 'adrift'],
  ['band', 'slipping'],
  ['band', 'on course'],
  ['band', 'no reading'],
];

/** Search as one types, and the filters as sentences; all of it lives in the link. */
export function Filters({ params }: { params: Params }) {
  const [q, setQ] = useState(params.q ?? '');
  const [pending, startTransition] = useTransition();
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  // The old rows stay until the new ones have come.
  const search = useDebouncedCallback(
    (text: string) =>
      startTransition(() => router.replace(linkTo('/learners', { ...params, q: text.trim() }), { scroll: false })),
    200,
  );
  useHotkeys([['/', () => input.current?.focus()]]);
  const own = Object.entries(SENTENCES).filter(([name]) => params[name]);
  return (
    <div className={classes.filters} aria-busy={pending}>
      <TextInput
        ref={input}
        w={280}
        aria-label="Find by any part of name, id, e-mail or phone"
        placeholder="Name, id, e-mail or phone  /"
        value={q}
        maxLength={200}
        onChange={(event) => {
          setQ(event.currentTarget.value);
          search(event.currentTarget.value);
        }}
      />
      {own.map(([name, say]) => (
        <span key={name} className={classes.sentence}>
          {say(params[name]!)}
          <CloseButton
            size="xs"
            aria-label={`Clear: ${say(params[name]!)}`}
            onClick={() => router.push(linkTo('/learners', { ...params, [name]: null }))}
          />
        </span>
      ))}
      <Menu position="bottom-start" shadow="md">
        <Menu.Target>
          <Button variant="default">Add a filter</Button>
        </Menu.Target>
        <Menu.Dropdown>
          {CHOICES.map(([name, value]) => (
            <Menu.Item
              key={`${name} ${value}`}
              component={Link}
              href={linkTo('/learners', { ...params, [name]: value })}
            >
              {SENTENCES[name](value)}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {(own.length > 1 || (own.length > 0 && params.q)) && (
        <Link
          href={linkTo('/learners', { in: params.in, sort: params.sort, limit: params.limit })}
          onClick={() => setQ('')}
        >
          clear all
        </Link>
      )}
    </div>
  );
}
