'use client';

import { useEffect, useState } from 'react';
import type { Person } from '@/core/contact/person';
import { explainOne } from './actions';
import { PersonPanel } from './person-panel';
import type { Listed, usePeople } from './use-people';

interface Props<T extends Listed> {
  list: ReturnType<typeof usePeople<T>>;
  /** The list itself: when it comes anew, so does the person. */
  people: readonly unknown[];
  /** Somebody of it, explained already. */
  first?: Person | null;
  place: string;
  now: number;
  zone: string;
  asOf: string | null;
}

/** The person under the cursor, fetched when the cursor comes to them; the one before stays until then. */
export function SidePerson<T extends Listed>({ list, people, first = null, place, now, zone, asOf }: Props<T>) {
  const [shown, setShown] = useState<Person | null>(first);
  const [shownPosition, setShownPosition] = useState(place);
  const { segmentKey } = list;
  const id = list.person?.id;
  // A place is never said beside the name of somebody else.
  if (shown?.id === id && shownPosition !== place) setShownPosition(place);
  useEffect(() => {
    if (id === undefined) return;
    if (first?.id === id) {
      setShown(first);
      return;
    }
    let wanted = true;
    // A cursor that moves on quickly asks for nobody on its way.
    const timer = setTimeout(async () => {
      const person = await explainOne(id, asOf, segmentKey).catch(() => null);
      if (wanted) setShown(person);
    }, 120);
    return () => {
      wanted = false;
      clearTimeout(timer);
    };
  }, [id, people, first, asOf, segmentKey]);
  const listed = list.person;
  if (!shown || !listed) return null;
  const lastContact = shown.contacts[0]?.says ?? null;
  return (
    <PersonPanel
      person={shown}
      place={shownPosition}
      now={now}
      zone={zone}
      href={list.pageOf(shown)}
      writing={list.pending}
      onAct={(name) => list.act(name, [{ ...shown, lastContact }])}
    />
  );
}
