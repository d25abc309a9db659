'use client';

import { Button, Group } from '@mantine/core';
import { useMemo, useState } from 'react';
import type { Person } from '@/core/contact/person';
import { dateOfDay } from '@/core/time/zone';
import { FormDialog } from '../../../_deck/form-dialog';
import { promiseTo, takeBackPromises } from '../../../_people/actions';
import { usePeople } from '../../../_people/use-people';

interface Props {
  person: Pick<Person, 'id' | 'learnerId' | 'name' | 'phone'>;
  /** The last contact by anybody, in words. */
  lastContact: string | null;
  today: number;
  here: string;
}

/** What one does about a learner, from their own page, with the keys of the lists. */
export function LearnerActions({ person, lastContact, today, here }: Props) {
  const people = useMemo(() => [{ ...person, lastContact }], [person, lastContact]);
  const list = usePeople({ people, today, here, single: true });
  const [promising, setPromising] = useState(false);
  return (
    <Group gap={8}>
      <Button loading={list.pending} onClick={() => list.write([person.id])}>
        Write
      </Button>
      <Button variant="default" onClick={() => list.call(people[0])}>
        Log a call
      </Button>
      <Button variant="default" onClick={() => list.note(person)}>
        Note
      </Button>
      <Button variant="default" onClick={() => setPromising(true)}>
        Follow up…
      </Button>
      <Button variant="default" onClick={() => list.setAside([person])}>
        Set aside…
      </Button>
      {promising && (
        <FormDialog
          title={`Follow up ${person.name}`}
          fields={[
            { name: 'reason', label: 'What to look at' },
            { name: 'due', label: 'Look again on', type: 'date' },
          ]}
          values={{ reason: '', due: dateOfDay(today + 7) }}
          verb="Make the follow-up"
          keep={({ due, reason }) => promiseTo([person.id], { due, reason })}
          onClose={() => setPromising(false)}
          onDone={(ids) =>
            list.done(`Follow-up on ${person.name} made`, () => takeBackPromises(ids), 'Follow-up taken back')
          }
        />
      )}
      {list.dialogs}
    </Group>
  );
}
