'use client';

import { Button, Checkbox, Popover, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useMemo, useState, useTransition } from 'react';
import type { Person } from '@/core/followup/person';
import { sayCount } from '@/core/time/words';
import { Gauge } from '@/ui/gauge';
import { Wake } from '@/ui/wake';
import { PeopleLayout } from '../../_people/people-layout';
import { PersonPanel } from '../../_people/person-panel';
import { usePeople } from '../../_people/use-people';
import { everybodyMatching, keepReach } from './actions';
import classes from './watch.module.css';

interface Props {
  people: Person[];
  /** Place of the first of them in the whole list. */
  offset: number;
  listed: number;
  /** How many people one can reach this week: the list draws a line there. Null draws none. */
  reach: number | null;
  /** Day number of today, whichever day is looked at. */
  today: number;
  now: number;
  zone: string;
  /** This list's address, to come back to. */
  here: string;
}

/** The people in order of need, with the one under the cursor explained at the right. */
export function WatchList({ people, offset, listed, reach, today, now, zone, here }: Props) {
  const router = useRouter();
  const listedPeople = useMemo(
    () => people.map((one) => ({ ...one, lastContact: one.contacts[0]?.says ?? null })),
    [people],
  );
  const list = usePeople({
    people: listedPeople,
    today,
    here,
    inAddress: true,
  });
  const { cursor, selected, setSelected, pending } = list;
  const person = list.person!;
  const selectAll = () =>
    list.startTransition(async () => setSelected(new Set(await everybodyMatching(here.split('?')[1] ?? ''))));

  const panel = (
    <PersonPanel
      person={person}
      place={`${offset + cursor + 1} of ${listed}`}
      now={now}
      zone={zone}
      href={list.pageOf(person)}
      writing={pending}
      onWrite={() => list.write([person.id])}
      onCall={() => list.call(person)}
      onNote={() => list.note(person)}
      onSetAside={() => list.setAside([person])}
    />
  );
  const allSelected = selected.size === people.length;
  return (
    <PeopleLayout
      list={list}
      people={listedPeople}
      total={listed}
      side={panel}
      sheetTitle="Why on the list"
      onSelectAll={selectAll}
      setAside
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
                ref={(element) => {
                  list.rows.current[index] = element;
                }}
                person={one}
                current={one.id === person.id}
                reach={reach !== null && reach === offset + index + 1 ? reach : null}
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
function ReachLine({ reach }: { reach: number }) {
  const [value, setValue] = useState(String(reach));
  const [trouble, setTrouble] = useState<string | null>(null);
  const [opened, setOpened] = useState(false);
  const [pending, startTransition] = useTransition();
  const keep = () =>
    startTransition(async () => {
      const result = await keepReach(value);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) setOpened(false);
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
