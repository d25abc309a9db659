'use client';

import { Alert, Button, Group, Modal, Stack, TextInput } from '@mantine/core';
import { useMemo, useState, useTransition } from 'react';
import { dateOfDay } from '@/core/time/zone';
import { promiseTo, takeBackPromises } from '../../../_people/actions';
import { usePeople } from '../../../_people/use-people';

interface Props {
  person: { id: number; learnerId: string; name: string; phone: string | null; lastContact: string | null };
  today: number;
  here: string;
}

/** What one does about a learner, from their own page, with the keys of the lists. */
export function LearnerActions({ person, today, here }: Props) {
  const people = useMemo(() => [person], [person]);
  const list = usePeople({ people, today, here, single: true });
  const [promising, setPromising] = useState(false);
  return (
    <Group gap={8}>
      <Button loading={list.pending} onClick={() => list.write([person.id])}>
        Write
      </Button>
      <Button variant="default" onClick={() => list.call(person)}>
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
        <PromiseDialog
          person={person}
          today={today}
          onClose={() => setPromising(false)}
          onDone={(ids) => {
            setPromising(false);
            list.done(`Follow-up on ${person.name} made`, () => takeBackPromises(ids), 'Follow-up taken back');
          }}
        />
      )}
      {list.dialogs}
    </Group>
  );
}

interface DialogProps {
  person: Props['person'];
  today: number;
  onClose: () => void;
  onDone: (ids: number[]) => void;
}

/** A day on which to look again, and why. */
function PromiseDialog({ person, today, onClose, onDone }: DialogProps) {
  const [form, setForm] = useState({ due: dateOfDay(today + 7), reason: '' });
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const keep = () =>
    startTransition(async () => {
      const result = await promiseTo([person.id], form);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) onDone(result.value);
    });
  return (
    <Modal opened onClose={onClose} title={`Follow up ${person.name}`} closeButtonProps={{ 'aria-label': 'Close' }}>
      <Stack gap="sm">
        <TextInput
          label="What to look at"
          data-autofocus
          maxLength={300}
          value={form.reason}
          onChange={(event) => setForm({ ...form, reason: event.currentTarget.value })}
        />
        <TextInput
          type="date"
          label="Look again on"
          value={form.due}
          onChange={(event) => setForm({ ...form, due: event.currentTarget.value })}
        />
        {trouble && (
          <Alert color="red" role="alert">
            {trouble}
          </Alert>
        )}
        <Group>
          <Button onClick={keep} loading={pending}>
            Make the follow-up
          </Button>
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
