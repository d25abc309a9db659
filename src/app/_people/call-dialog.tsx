'use client';

import { Alert, Button, Group, Kbd, Modal, Stack, TextInput } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { useState, useTransition } from 'react';
import { CALL_OUTCOMES, CALL_OUTCOME_NAMES, type CallOutcome } from '@/core/contact/call';
import { dateOfDay } from '@/core/time/zone';
import type { LoggedCall } from '@/server/contact/contact';
import { logTheCall } from './actions';

export interface Called {
  id: number;
  name: string;
  phone?: string | null;
  /** The last contact by anybody, in words: two people calling at once see each other. */
  lastContact?: string | null;
}

interface Props {
  /** Who; null closes the dialog. */
  person: Called | null;
  /** Day number of today. */
  today: number;
  onClose: () => void;
  onDone: (logged: LoggedCall, says: string) => void;
}

/** Days after which one looks again, when nothing else is said. */
const LOOK_AGAIN = 3;

/** Puts a call on record: one key for how it ended, with a day to look again. */
export function CallDialog({ person, today, onClose, onDone }: Props) {
  const [remark, setRemark] = useState('');
  const [next, setNext] = useState(dateOfDay(today + LOOK_AGAIN));
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const log = (outcome: CallOutcome) => {
    if (!person || pending) return;
    startTransition(async () => {
      const result = await logTheCall(person.id, { outcome, remark, next });
      setTrouble(result.ok ? null : result.says);
      if (!result.ok) return;
      setRemark('');
      onDone(result.value, `Call to ${person.name}: ${CALL_OUTCOMES[outcome].says}`);
    });
  };
  useHotkeys(
    person
      ? CALL_OUTCOME_NAMES.map((outcome) => [CALL_OUTCOMES[outcome].key, () => log(outcome)] as [string, () => void])
      : [],
  );
  return (
    <Modal
      opened={person !== null}
      onClose={onClose}
      title={`Call to ${person?.name ?? ''}`}
      closeButtonProps={{ 'aria-label': 'Close' }}
    >
      <Stack gap="sm">
        <div>
          {person?.phone ? (
            <a href={`tel:${person.phone.replace(/[^\d+]/g, '')}`}>{person.phone}</a>
          ) : (
            'No phone number is known.'
          )}
          {person?.lastContact && <div>Last contact: {person.lastContact}</div>}
        </div>
        <Group gap={8} role="group" aria-label="How it ended">
          {CALL_OUTCOME_NAMES.map((outcome, index) => (
            <Button
              key={outcome}
              variant={index === 0 ? 'filled' : 'default'}
              loading={pending}
              data-autofocus={index === 0 || undefined}
              rightSection={<Kbd size="xs">{CALL_OUTCOMES[outcome].key}</Kbd>}
              onClick={() => log(outcome)}
            >
              {CALL_OUTCOMES[outcome].says}
            </Button>
          ))}
        </Group>
        <TextInput
          label="Remark"
          maxLength={2000}
          value={remark}
          onChange={(event) => setRemark(event.currentTarget.value)}
        />
        <TextInput
          type="date"
          label="Look again on"
          description="Makes a follow-up; empty for none."
          value={next}
          onChange={(event) => setNext(event.currentTarget.value)}
        />
        {trouble && (
          <Alert color="red" role="alert">
            {trouble}
          </Alert>
        )}
      </Stack>
    </Modal>
  );
}
