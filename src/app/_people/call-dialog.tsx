'use client';

import { Alert, Button, Group, Kbd, Modal, Stack, TextInput } from '@mantine/core';
import { useHotkeys, type HotkeyItem } from '@mantine/hooks';
import { CALL_OUTCOMES, CALL_OUTCOME_NAMES } from '@/core/contact/call';
import { dateOfDay } from '@/core/time/zone';
import type { LoggedCall } from '@/server/contact/contact';
import { DayField } from '../_frame/day-field';
import { isTypedIn } from '../_frame/letters';
import { useForm } from '../_frame/use-form';
import { logCall, type CallForm } from './actions';

export interface Called {
  id: number;
  name: string;
  phone?: string | null;
  /** The last contact by anybody, in words: two people calling at once see each other. */
  lastContact?: string | null;
}

interface Props {
  person: Called;
  opened: boolean;
  /** Day number of today. */
  today: number;
  onClose: () => void;
  onDone: (logged: LoggedCall, says: string) => void;
}

/** Days after which one looks again, when nothing else is said. */
const LOOK_AGAIN = 3;

/** Puts a call on record: one key for how it ended, with a day to follow up. */
export function CallDialog({ person, opened, today, onClose, onDone }: Props) {
  const empty: CallForm = { outcome: '', remark: '', next: dateOfDay(today + LOOK_AGAIN) };
  const form = useForm({ values: empty, keep: (values) => logCall(person.id, values) });
  const log = (outcome: (typeof CALL_OUTCOME_NAMES)[number]) =>
    form.submit({ outcome }, (logged) => {
      form.set(empty);
      onDone(logged, `Call to ${person.name}: ${CALL_OUTCOMES[outcome].says}`);
    });
  useHotkeys(
    opened
      ? CALL_OUTCOME_NAMES.map((outcome): HotkeyItem => [
          CALL_OUTCOMES[outcome].key,
          (event) => {
            if (isTypedIn(event.target)) return;
            event.preventDefault();
            log(outcome);
          },
          { preventDefault: false },
        ])
      : [],
    // Digits that somebody types into a field are theirs; a box in the row that was left is no such field.
    ['TEXTAREA', 'SELECT'],
  );
  return (
    <Modal opened={opened} onClose={onClose} title={`Call to ${person.name}`}>
      <Stack gap="sm">
        <div>
          {person.phone ? (
            <a href={`tel:${person.phone.replace(/[^\d+]/g, '')}`}>{person.phone}</a>
          ) : (
            'No phone number is known.'
          )}
          {person.lastContact && <div>Last contact: {person.lastContact}</div>}
        </div>
        <Group gap={8} role="group" aria-label="How it ended">
          {CALL_OUTCOME_NAMES.map((outcome, index) => (
            <Button
              key={outcome}
              variant={index === 0 ? 'filled' : 'default'}
              loading={form.pending}
              data-autofocus={index === 0 || undefined}
              rightSection={<Kbd size="xs">{CALL_OUTCOMES[outcome].key}</Kbd>}
              onClick={() => log(outcome)}
            >
              {CALL_OUTCOMES[outcome].says}
            </Button>
          ))}
        </Group>
        <TextInput label="Remark" maxLength={2000} {...form.field('remark')} />
        <DayField
          label="Follow up on"
          description="Makes a follow-up; empty for none."
          value={form.values.next}
          error={form.errors.next}
          onChange={(next) => form.set({ next })}
        />
        {form.trouble && (
          <Alert color="red" role="alert">
            {form.trouble}
          </Alert>
        )}
      </Stack>
    </Modal>
  );
}
