'use client';

import { Button, Checkbox, Drawer } from '@mantine/core';
import { useHotkeys, useMediaQuery } from '@mantine/hooks';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState, useTransition } from 'react';
import type { Person } from '@/core/followup/person';
import { sayCount } from '@/core/time/words';
import { Gauge } from '@/ui/gauge';
import { Wake } from '@/ui/wake';
import { startWriting } from '../write/actions';
import { PersonPanel } from './person-panel';
import classes from './watch.module.css';

interface Props {
  people: Person[];
  /** Place of the first of them in the whole list. */
  offset: number;
  listed: number;
  now: number;
  zone: string;
  /** This list's address, to come back to. */
  here: string;
}

function withPerson(learnerId: string) {
  const url = new URL(window.location.href);
  url.searchParams.set('person', learnerId);
  window.history.replaceState(null, '', url);
}

/** The people in order of need, with the one under the cursor explained at the right. */
export function WatchList({ people, offset, listed, now, zone, here }: Props) {
  const [cursor, setCursor] = useState(0);
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set());
  const [sheet, setSheet] = useState(false);
  const [pending, startTransition] = useTransition();
  const router = useRouter();
  const narrow = useMediaQuery('(max-width: 900px)');
  const rows = useRef<(HTMLLIElement | null)[]>([]);
  const person = people[cursor];

  // The person in the link, once, when the page has opened.
  useEffect(() => {
    const wanted = new URLSearchParams(window.location.search).get('person');
    const index = people.findIndex((one) => one.learnerId === wanted);
    if (index > 0) setCursor(index);
  }, [people]);

  const go = useCallback(
    (index: number) => {
      if (index < 0 || index >= people.length) return;
      setCursor(index);
      withPerson(people[index].learnerId);
      rows.current[index]?.scrollIntoView({ block: 'nearest' });
    },
    [people],
  );
  const toggle = (id: number) => {
    const next = new Set(selected);
    if (!next.delete(id)) next.add(id);
    setSelected(next);
  };
  const pageOf = (one: Person) => `/learners/${encodeURIComponent(one.learnerId)}?from=${encodeURIComponent(here)}`;
  const write = (ids: number[]) => startTransition(() => startWriting(ids, here));
  const chosen = selected.size > 0 ? people.filter((one) => selected.has(one.id)) : [person];

  useHotkeys([
    ['j', () => go(cursor + 1)],
    ['k', () => go(cursor - 1)],
    ['o', () => router.push(pageOf(person))],
    ['x', () => toggle(person.id)],
    ['w', () => write(chosen.map((one) => one.id))],
  ]);

  const panel = (
    <PersonPanel
      person={person}
      place={`${offset + cursor + 1} of ${listed}`}
      now={now}
      zone={zone}
      href={pageOf(person)}
      writing={pending}
      onWrite={() => write([person.id])}
    />
  );
  const allSelected = selected.size === people.length;
  return (
    <div className={classes.split}>
      <div>
        <div className={classes.heading}>
          <Checkbox
            size="xs"
            aria-label={allSelected ? 'Select nobody' : 'Select everybody on this page'}
            checked={allSelected}
            indeterminate={selected.size > 0 && !allSelected}
            onChange={() => setSelected(allSelected ? new Set() : new Set(people.map((one) => one.id)))}
          />
          <span />
          <span>Learner</span>
          <span className={classes.wide}>Wake, last 28 days</span>
          <span>Why</span>
          <span className={classes.wide}>Last contact</span>
        </div>
        <ul className={classes.list} aria-label="Learners in order of need">
          {people.map((one, index) => (
            <Row
              key={one.id}
              ref={(element) => {
                rows.current[index] = element;
              }}
              person={one}
              current={index === cursor}
              selected={selected.has(one.id)}
              onSelect={() => toggle(one.id)}
              onGo={() => {
                go(index);
                if (narrow) setSheet(true);
              }}
              onOpen={() => router.push(pageOf(one))}
            />
          ))}
        </ul>
        {selected.size > 0 && (
          <div className={classes.selection} role="region" aria-label="Selected learners">
            <strong>{sayCount(selected.size, 'learner')} selected</strong>
            <Button loading={pending} onClick={() => write([...selected])}>
              Write to {selected.size}
            </Button>
            <Button variant="default" onClick={() => setSelected(new Set())}>
              Clear
            </Button>
          </div>
        )}
      </div>
      <aside className={classes.side} aria-label="The learner under the cursor">
        {panel}
      </aside>
      <Drawer
        opened={sheet && Boolean(narrow)}
        onClose={() => setSheet(false)}
        position="bottom"
        size="85%"
        title="Why on the list"
        closeButtonProps={{ 'aria-label': 'Close' }}
      >
        {panel}
      </Drawer>
    </div>
  );
}

interface RowProps {
  ref: (element: HTMLLIElement | null) => void;
  person: Person;
  current: boolean;
  selected: boolean;
  onSelect: () => void;
  onGo: () => void;
  onOpen: () => void;
}

function Row({ ref, person, current, selected, onSelect, onGo, onOpen }: RowProps) {
  const { name, enrolments, toldApart, contacts } = person;
  const lines = enrolments.flatMap((enrolment) =>
    enrolment.reasons.filter((reason) => reason.points > 0).map((reason) => ({ ...reason, course: enrolment.course })),
  );
  const [first] = enrolments;
  const why = lines[0]?.says ?? first?.reasons[0]?.says ?? 'Nothing to judge by yet';
  const [fact, ...rest] = why.split(' · ');
  const courses = enrolments.length > 1 ? `${first.title} and ${enrolments.length - 1} more` : first?.title;
  return (
    <li ref={ref} className={classes.row} data-current={current || undefined}>
      <Checkbox size="xs" checked={selected} onChange={onSelect} aria-label={`Select ${name}`} />
      <Gauge score={person.score} band={person.band} />
      <button
        type="button"
        className={classes.name}
        aria-current={current ? 'true' : undefined}
        onClick={onGo}
        onDoubleClick={onOpen}
      >
        <strong>
          <bdi>{name}</bdi>
        </strong>
        <span>
          {courses}
          {first?.group && enrolments.length === 1 ? ` · ${first.group}` : ''}
        </span>
        {toldApart && <span>{toldApart}</span>}
      </button>
      <span className={classes.wide}>
        <Wake wake={person.wake} />
      </span>
      <span className={classes.why}>
        <span>
          <strong>{fact}</strong>
          {rest.length > 0 && <span className={classes.soft}> · {rest.join(' · ')}</span>}
        </span>
        {lines.length > 1 && <span className={classes.soft}>{lines[1].says}</span>}
      </span>
      <span className={`${classes.wide} ${classes.soft}`}>{contacts[0]?.says ?? '–'}</span>
    </li>
  );
}
