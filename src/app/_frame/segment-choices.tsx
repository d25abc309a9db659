'use client';

import { Menu, TextInput } from '@mantine/core';
import Link from 'next/link';
import { usePathname, useSearchParams } from 'next/navigation';
import { useEffect, useState, type KeyboardEvent } from 'react';
import classes from './frame.module.css';
import { useOpening, type Target } from './opens-later';

interface Choice {
  key: string;
  label: string;
  learners: number;
}

const KINDS = { caseload: 'Own caseloads', course: 'Courses', group: 'Groups', organisation: 'Organisations' } as const;
/** More choices than these are found by typing a part of their name. */
const FEW = 15;
/** As many of a kind as one would look through. */
const SHOWN = 50;

interface Props {
  own: string;
  current: string | null;
  target: Target;
}

/** The choices of whose learners are shown, read when they are asked for. */
export function SegmentChoices({ own, current, target: button }: Props) {
  const to = useLinks();
  const { opened, setOpened, target } = useOpening(button);
  const [choices, setChoices] = useState<Choice[] | null>(null);
  const [trouble, setTrouble] = useState(false);
  const [text, setText] = useState('');
  const read = async () => {
    setText('');
    setTrouble(false);
    try {
      const answer = await fetch('/lists/segments');
      if (!answer.ok) throw new Error(String(answer.status));
      setChoices(await answer.json());
    } catch {
      setTrouble(true);
    }
  };
  useEffect(() => {
    if (opened) void read();
  }, [opened]);
  const found = (choices ?? []).filter((choice) => choice.label.toLowerCase().includes(text.trim().toLowerCase()));
  return (
    <Menu position="bottom-start" shadow="md" width={320} opened={opened} onChange={setOpened}>
      <Menu.Target>{target}</Menu.Target>
      <Menu.Dropdown>
        {choices !== null && choices.length > FEW && (
          <TextInput
            size="xs"
            p={4}
            data-autofocus
            aria-label="Find a caseload, course, group or organisation"
            placeholder="Part of its name"
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
            onKeyDown={toFirstItem}
          />
        )}
        <div className={classes.menuScroll}>
          <Menu.Item component={Link} href={to(null)}>
            {own[0].toUpperCase() + own.slice(1)}
          </Menu.Item>
          {trouble && <p className={classes.menuNote}>The list could not be read. Close this and try again.</p>}
          {choices === null && !trouble && <p className={classes.menuNote}>Reading …</p>}
          {text !== '' && found.length === 0 && <p className={classes.menuNote}>None has this in its name.</p>}
          {text === '' && (
            <Menu.Item component={Link} href="/caseloads">
              Caseloads …
            </Menu.Item>
          )}
          {Object.entries(KINDS).map(([kind, title]) => (
            <Kind
              key={kind}
              title={title}
              choices={found.filter((choice) => choice.key.startsWith(`${kind}:`))}
              current={current}
              to={to}
            />
          ))}
        </div>
      </Menu.Dropdown>
    </Menu>
  );
}

interface KindProps {
  title: string;
  choices: readonly Choice[];
  current: string | null;
  to: (key: string) => string;
}

function Kind({ title, choices, current, to }: KindProps) {
  if (choices.length === 0) return null;
  const rest = choices.length - SHOWN;
  return (
    <div>
      <Menu.Label>{title}</Menu.Label>
      {choices.slice(0, SHOWN).map(({ key, label, learners }) => (
        <Menu.Item
          key={key}
          component={Link}
          href={to(key)}
          rightSection={learners}
          aria-current={key === current ? 'true' : undefined}
        >
          {label}
        </Menu.Item>
      ))}
      {rest > 0 && <p className={classes.menuNote}>{rest} more: type a part of the name.</p>}
    </div>
  );
}

/** Where each choice leads. What a part that is no longer chosen says of pages and filters goes. */
function useLinks(): (key: string | null) => string {
  const path = usePathname();
  const search = useSearchParams();
  return (key) => {
    const params = new URLSearchParams();
    if (key) params.set('in', key);
    const band = search.get('band');
    if (band && path === '/watch') params.set('band', band);
    const asOf = search.get('as_of');
    if (asOf) params.set('as_of', asOf);
    const query = params.toString();
    const target = path.startsWith('/learners/') || path.startsWith('/write') ? '/watch' : path;
    return query ? `${target}?${query}` : target;
  };
}

/** Letters belong to the field, the arrow down leads on to the menu. */
function toFirstItem(event: KeyboardEvent<HTMLInputElement>): void {
  if (event.key === 'Escape' || event.key === 'Tab') return;
  event.stopPropagation();
  if (event.key !== 'ArrowDown') return;
  event.preventDefault();
  event.currentTarget.closest('[role=menu]')?.querySelector<HTMLElement>('[role=menuitem]')?.focus();
}
