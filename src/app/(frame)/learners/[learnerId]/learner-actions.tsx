'use client';

import { Group } from '@mantine/core';
import { useMemo } from 'react';
import type { Person } from '@/core/contact/person';
import { ActionButtons } from '../../../_people/action-buttons';
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
  return (
    <Group gap={8}>
      <ActionButtons busy={list.pending} onAct={(name) => list.act(name, people)} />
      {list.dialogs}
    </Group>
  );
}
