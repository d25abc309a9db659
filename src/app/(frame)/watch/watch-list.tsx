'use client';

import { Button, Checkbox, Popover, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Person } from '@/core/contact/person';
import { sayCount } from '@/core/time/words';
import { Gauge } from '@/ui/gauge';
import { RowCheck } from '@/ui/row-check';
import { Wake } from '@/ui/wake';
import { PeopleLayout } from '../../_people/people-layout';
import { SidePerson } from '../../_people/side-person';
import { usePeople } from '../../_people/use-people';
import { everybodyMatching, saveCapacity } from './actions';
import type { WatchLine } from './watch-line';
import { usePending } from '../../_frame/use-pending';
import classes from './watch.module.css';

interface Props {
  people: WatchLine[];
  /** The first of them, explained. */
  first: Person | null;
  /** The past day looked at. */
  asOf: string | null;
  /** Place of the first of them in the whole list. */
  offset: number;
  listed: number;
  /** How many people one can reach this week: the list draws a line there. Null draws none. */
  capacity: number | null;
  /** Day number of today, whichever day is looked at. */
  today: number;
  now: number;
  zone: string;
  /** This list's address, to come back to. */
  here: string;
}

/** The people in order of need, with the one under the cursor explained at the right. */
export function WatchList({ people, first, asOf, offset, listed, capacity: capacity, today, now, zone, here }: Props) {
  const router = useRouter();
  const list = usePeople({
    people,
    today,
    here,
    inAddress: true,
  });
  const { cursor, selected, setSelected } = list;
  const person = list.person!;
  const selectAll = () =>
    list.start(async () => setSelected(new Set(await everybodyMatching(here.split('?')[1] ?? ''))));

  const panel = (
    <SidePerson
      list={list}
      people={people}
      first={first}
      place={`${offset + cursor + 1} of ${listed}`}
      now={now}
      zone={zone}
      asOf={asOf}
    />
  );
  const allSelected = selected.size === people.length;
  return (
    <PeopleLayout
      list={list}
      people={people}
      total={listed}
      side={panel}
      sheetTitle="Why on the list"
      onSelectAll={selectAll}
    >
      {(show) => (
        <>
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
                rowProps={list.rowProps(index)}
                person={one}
                current={one.id === person.id}
                capacity={capacity !== null && capacity === offset + index + 1 ? capacity : null}
                selected={selected.has(one.id)}
                onSelect={() => list.toggle(one.id)}
                onGo={() => {
                  list.go(index);
                  show();
                }}
                onOpen={() => router.push(list.pageOf(one))}
              />
            ))}
          </ul>
        </>
      )}
    </PeopleLayout>
  );
}

/** The line where one's week ends; pressing it sets how many one can reach. */
function CapacityLine({ capacity: capacity }: { capacity: number }) {
  const [value, setValue] = useState(String(capacity));
  const [trouble, setTrouble] = useState<string | null>(null);
  const [opened, setOpened] = useState(false);
  const [pending, start] = usePending();
  const keep = () =>
    start(async () => {
      const result = await saveCapacity(value);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) setOpened(false);
    });
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" trapFocus>
      <Popover.Target>
        <button type="button" className={classes.capacity} onClick={() => setOpened(!opened)}>
          Your week: {sayCount(capacity, 'person', 'people')}
        </button>
      </Popover.Target>
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
          Keep
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}

interface RowProps {
  rowProps: ReturnType<ReturnType<typeof usePeople>['rowProps']>;
  person: WatchLine;
  current: boolean;
  selected: boolean;
  /** Set on the last row that one can reach this week. */
  capacity: number | null;
  onSelect: () => void;
  onGo: () => void;
  onOpen: () => void;
}

function Row({ rowProps, person, current, selected, capacity: capacity, onSelect, onGo, onOpen }: RowProps) {
  const { name, toldApart, courses, fact, more, others, lastContact } = person;
  return (
    <li
      {...rowProps}
      className={classes.row}
      data-current={current || undefined}
      data-last={capacity !== null || undefined}
    >
      <RowCheck checked={selected} onChange={onSelect} label={`Select ${name}`} />
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
        <span>{[toldApart, courses].filter(Boolean).join(' · ')}</span>
      </button>
      <span className={classes.wide}>
        <Wake wake={person.wake} />
      </span>
      <span className={classes.why}>
        <span>
          <strong>{fact}</strong>
          {more && <span className={classes.soft}> · {more}</span>}
        </span>
        {others && <span className={classes.soft}>{others}</span>}
      </span>
      <span className={`${classes.wide} ${classes.soft} ${classes.lastContact}`}>{lastContact ?? '–'}</span>
      {capacity !== null && <CapacityLine capacity={capacity} />}
    </li>
  );
}
