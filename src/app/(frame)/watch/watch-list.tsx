'use client';

import { Checkbox } from '@mantine/core';
import { useRouter } from 'next/navigation';
import type { Person } from '@/core/contact/person';
import { bandWord } from '@/core/drift/bands';
import { sayCount } from '@/core/time/words';
import { Gauge } from '@/ui/gauge';
import { RowCheck } from '@/ui/row-check';
import { Wake } from '@/ui/wake';
import { PeopleLayout } from '../../_people/people-layout';
import { SidePerson } from '../../_people/side-person';
import { usePeople } from '../../_people/use-people';
import { opensLater } from '../../_frame/opens-later';
import { everybodyMatching } from './actions';
import type { WatchLine } from './watch-line';
import classes from './watch.module.css';

const CapacityForm = opensLater(() => import('./capacity-form').then((module) => module.CapacityForm));

/** One's own week. */
interface Week {
  capacity: number;
  contacted: number;
}

interface Props {
  people: WatchLine[];
  /** The first of them, explained. */
  first: Person | null;
  /** The past day looked at. */
  asOf: string | null;
  /** Place of the first of them in the whole list. */
  offset: number;
  listed: number;
  /** How many people one can contact in a week, and how many one has: the list draws a line where it ends. Null draws none. */
  week: Week | null;
  /** What nearly everybody on the list has, in words; null where there is nothing. */
  common: string | null;
  /** Day number of today, whichever day is looked at. */
  today: number;
  now: number;
  zone: string;
  /** This list's address, to come back to. */
  here: string;
}

/** The people in order of need, with the one under the cursor explained at the right. */
export function WatchList({ people, first, asOf, offset, listed, week, common, today, now, zone, here }: Props) {
  const router = useRouter();
  const list = usePeople({
    people,
    today,
    here,
    inAddress: true,
  });
  const { cursor, selected, setSelected } = list;
  const left = week && Math.max(0, week.capacity - week.contacted);
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
              onChange={() => setSelected(allSelected ? new Set() : new Set(people.map((person) => person.id)))}
            />
            <span />
            <span>Learner</span>
            <span className={classes.wide}>Last 28 days</span>
            <span>Why</span>
            <span className={classes.wide}>Last contact</span>
          </div>
          {(common ?? (week !== null && left === 0)) && (
            <div className={classes.above}>
              {common && <span>{common}</span>}
              {week !== null && left === 0 && <CapacityLine week={week} above />}
            </div>
          )}
          <ul className={classes.list} aria-label="Learners in order of need">
            {people.map((one, index) => (
              <Row
                key={one.id}
                rowProps={list.rowProps(index)}
                person={one}
                current={one.id === person.id}
                week={week !== null && left === offset + index + 1 ? week : null}
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

/** "Your week: 10 people, 4 contacted". */
function sayWeek({ capacity, contacted }: Week): string {
  const all = `Your week: ${sayCount(capacity, 'person', 'people')}`;
  return contacted === 0 ? all : `${all}, ${contacted} contacted`;
}

/** The line where one's week ends; pressing it sets how many one can contact. It goes up as people are contacted. */
function CapacityLine({ week, above = false }: { week: Week; above?: boolean }) {
  return (
    <CapacityForm
      capacity={week.capacity}
      target={
        <button type="button" className={classes.capacity} data-above={above || undefined}>
          {sayWeek(week)}
        </button>
      }
    />
  );
}

interface RowProps {
  rowProps: ReturnType<ReturnType<typeof usePeople>['rowProps']>;
  person: WatchLine;
  current: boolean;
  selected: boolean;
  /** Set on the last row that one's week has room for. */
  week: Week | null;
  onSelect: () => void;
  onGo: () => void;
  onOpen: () => void;
}

function Row({ rowProps, person, current, selected, week, onSelect, onGo, onOpen }: RowProps) {
  const { name, toldApart, courses, fact, others, lastContact, answer } = person;
  return (
    <li
      {...rowProps}
      className={classes.row}
      data-current={current || undefined}
      data-last={week !== null || undefined}
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
        <span className={classes.bandWord}>{bandWord(person.band)}</span>
        <span className={classes.courses}>{[toldApart, courses].filter(Boolean).join(' · ')}</span>
      </button>
      <span className={classes.wide}>
        <Wake wake={person.wake} width={140} />
      </span>
      <span className={classes.why}>
        <strong>{fact}</strong>
        {answer && (
          <span dir="auto">
            “<bdi>{answer}</bdi>”
          </span>
        )}
        {others && <span className={classes.soft}>{others}</span>}
      </span>
      <span className={`${classes.wide} ${classes.soft} ${classes.lastContact}`}>{lastContact ?? '–'}</span>
      {week !== null && <CapacityLine week={week} />}
    </li>
  );
}
