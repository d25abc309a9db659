'use client';

import { Button, Checkbox, Drawer, Popover, TextInput } from '@mantine/core';
import { useHotkeys, useMediaQuery } from '@mantine/hooks';
import { notifications } from '@mantine/notifications';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState, useTransition } from 'react';
import type { Person } from '@/core/followup/person';
import { sayCount } from '@/core/time/words';
import { Gauge } from '@/ui/gauge';
import { Keys } from '@/ui/keys';
import { Wake } from '@/ui/wake';
import { startWriting } from '../write/actions';
import { bringThemBack, everybodyMatching, keepReach } from './actions';
import { PersonPanel } from './person-panel';
import { SetAsideDialog } from './set-aside-dialog';
import classes from './watch.module.css';

interface Props {
  people: Person[];
  /** Place of the first of them in the whole list. */
  offset: number;
  listed: number;
  /** How many people one can reach this week: the list draws a line there. Null draws none. */
  reach: number | null;
  now: number;
  zone: string;
  /** This list's address, to come back to. */
  here: string;
}

const KEYS = [
  ['j', 'Next person'],
  ['k', 'Previous person'],
  ['o', 'Open the page'],
  ['x', 'Select'],
  ['w', 'Write to the selected, or to the one under the cursor'],
  ['u', 'Undo setting aside'],
] as const;

function withPerson(learnerId: string) {
  const url = new URL(window.location.href);
  url.searchParams.set('person', learnerId);
  window.history.replaceState(null, '', url);
}

/** The people in order of need, with the one under the cursor explained at the right. */
export function WatchList({ people, offset, listed, reach, now, zone, here }: Props) {
  const [cursor, setCursor] = useState(0);
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set());
  const [sheet, setSheet] = useState(false);
  const [aside, setAside] = useState<{ id: number; name: string }[] | null>(null);
  /** Ids that were set aside last, for undo. */
  const [undoable, setUndoable] = useState<number[]>([]);
  const [pending, startTransition] = useTransition();
  const router = useRouter();
  const narrow = useMediaQuery('(max-width: 900px)');
  const rows = useRef<(HTMLLIElement | null)[]>([]);
  const person = people[Math.min(cursor, people.length - 1)];

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
  const undo = (ids: number[]) => {
    if (ids.length === 0) return;
    setUndoable([]);
    startTransition(async () => {
      await bringThemBack(ids);
      notifications.show({ title: 'Put back on the Watch', message: '' });
    });
  };
  const afterSetAside = (ids: number[], says: string) => {
    setAside(null);
    setSelected(new Set());
    setCursor((current) => Math.max(0, Math.min(current, people.length - ids.length - 1)));
    setUndoable(ids);
    notifications.show({
      title: says,
      message: (
        <Button variant="default" mt={4} onClick={() => undo(ids)}>
          Undo
        </Button>
      ),
    });
  };
  const selectAll = () =>
    startTransition(async () => setSelected(new Set(await everybodyMatching(here.split('?')[1] ?? ''))));
  useHotkeys([
    ['j', () => go(cursor + 1)],
    ['k', () => go(cursor - 1)],
    ['o', () => router.push(pageOf(person))],
    ['x', () => toggle(person.id)],
    ['w', () => write(selected.size > 0 ? [...selected] : [person.id])],
    ['u', () => undo(undoable)],
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
      onSetAside={() => setAside([person])}
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
              current={one === person}
              reach={reach !== null && reach === offset + index + 1 ? reach : null}
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
            {selected.size < listed && (
              <Button variant="default" loading={pending} onClick={selectAll}>
                Select all {listed}
              </Button>
            )}
            <Button
              variant="default"
              onClick={() =>
                setAside([...selected].map((id) => people.find((one) => one.id === id) ?? { id, name: '' }))
              }
            >
              Set aside…
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
      <SetAsideDialog people={aside} onClose={() => setAside(null)} onDone={afterSetAside} />
      <Keys keys={KEYS} />
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

/** The line where one's week ends; pressing it sets how many one can reach. */
function ReachLine({ reach }: { reach: number }) {
  const [value, setValue] = useState(String(reach));
  const [trouble, setTrouble] = useState<string | null>(null);
  const [opened, setOpened] = useState(false);
  const [pending, startTransition] = useTransition();
  const keep = () =>
    startTransition(async () => {
      const fault = await keepReach(value);
      setTrouble(fault);
      if (fault === null) setOpened(false);
    });
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" trapFocus>
      <Popover.Target>
        <button type="button" className={classes.reach} onClick={() => setOpened(!opened)}>
          Your reach this week: {sayCount(reach, 'person', 'people')}
        </button>
      </Popover.Target>
      <Popover.Dropdown>
        <TextInput
          label="People you can reach in a week"
          inputMode="numeric"
          value={value}
          error={trouble}
          onChange={(event) => setValue(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && keep()}
        />
        <Button mt="xs" onClick={keep} loading={pending}>
          Keep
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}

interface RowProps {
  ref: (element: HTMLLIElement | null) => void;
  person: Person;
  current: boolean;
  selected: boolean;
  /** Set on the last row that one can reach this week. */
  reach: number | null;
  onSelect: () => void;
  onGo: () => void;
  onOpen: () => void;
}

function Row({ ref, person, current, selected, reach, onSelect, onGo, onOpen }: RowProps) {
  const { name, enrolments, toldApart, contacts } = person;
  const lines = enrolments.flatMap((enrolment) =>
    enrolment.reasons.filter((reason) => reason.points > 0).map((reason) => ({ ...reason, course: enrolment.course })),
  );
  const [first] = enrolments;
  const why = lines[0]?.says ?? first?.reasons[0]?.says ?? 'Nothing to judge by yet';
  const [fact, ...rest] = why.split(' · ');
  const courses = enrolments.length > 1 ? `${first.title} and ${enrolments.length - 1} more` : first?.title;
  return (
    <li ref={ref} className={classes.row} data-current={current || undefined} data-reach={reach !== null || undefined}>
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
      <span className={`${classes.wide} ${classes.soft} ${classes.lastContact}`}>{contacts[0]?.says ?? '–'}</span>
      {reach !== null && <ReachLine reach={reach} />}
    </li>
  );
}
