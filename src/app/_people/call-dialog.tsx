'use client';

import { Alert, Button, Group, Kbd, Modal, Stack, TextInput } from '@mantine/core';
import { useHotkeys, type HotkeyItem } from '@mantine/hooks';
import { useRef } from 'react';
import { CALL_OUTCOMES, CALL_OUTCOME_NAMES, type CallOutcome } from '@/core/contact/call';
import { dateOfDay } from '@/core/time/zone';
import type { LoggedCall } from '@/server/contact/contact';
import { dialling } from '@/ui/contact';
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

/** Puts a call on record: how it ended by one key or press, a remark, a day to follow up; Enter saves. */
export function CallDialog({ person, opened, today, onClose, onDone }: Props) {
  const empty: CallForm = { outcome: '', remark: '', next: dateOfDay(today + LOOK_AGAIN) };
  const remark = useRef<HTMLInputElement>(null);
  const form = useForm({ values: empty, keep: (values) => logCall(person.id, values) });
  const chosen = CALL_OUTCOME_NAMES.find((outcome) => outcome === form.values.outcome);
  // Whoever presses Enter right after the digit is quicker than what is drawn.
  const pressed = useRef<CallOutcome | null>(null);
  const choose = (outcome: CallOutcome) => {
    pressed.current = outcome;
    form.set({ outcome });
  };
  const save = () => {
    const outcome = pressed.current;
    form.submit({ outcome: outcome ?? '' }, (logged) => {
      pressed.current = null;
      form.set(empty);
      onDone(logged, `Call to ${person.name}: ${CALL_OUTCOMES[outcome!].says}`);
    });
  };
  useHotkeys(
    opened
      ? CALL_OUTCOME_NAMES.map((outcome): HotkeyItem => [
          CALL_OUTCOMES[outcome].key,
          (event) => {
            if (isTypedIn(event.target)) return;
            event.preventDefault();
            choose(outcome);
            remark.current?.focus();
          },
          { preventDefault: false },
        ])
      : [],
    // Digits that somebody types into a field are theirs; a box in the row that was left is no such field.
    ['TEXTAREA', 'SELECT'],
  );
  return (
    <Modal opened={opened} onClose={onClose} title={`Call to ${person.name}`}>
      <form
        noValidate
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        <Stack gap="sm">
          <div>
            {person.phone ? <a href={dialling(person.phone)}>{person.phone}</a> : 'No phone number is known.'}
            {person.lastContact && <div>Last contact: {person.lastContact}</div>}
          </div>
          <Group gap={8} role="group" aria-label="How it ended">
            {CALL_OUTCOME_NAMES.map((outcome) => (
              <Button
                key={outcome}
                variant={outcome === chosen ? 'filled' : 'default'}
                aria-pressed={outcome === chosen}
                rightSection={<Kbd size="xs">{CALL_OUTCOMES[outcome].key}</Kbd>}
                onClick={() => choose(outcome)}
              >
                {CALL_OUTCOMES[outcome].says.replace(/^./, (letter) => letter.toUpperCase())}
              </Button>
            ))}
          </Group>
          <TextInput ref={remark} label="Remark" maxLength={2000} {...form.field('remark')} />
          <DayField
            label="Follow up on"
            description="Makes a follow-up; empty for none."
            value={form.values.next}
            error={form.errors.next}
            onChange={(next) => form.set({ next })}
          />
          {(form.errors.outcome ?? form.trouble) && (
            <Alert color="red" role="alert">
              {form.errors.outcome ? 'Choose how the call ended, then save it.' : form.trouble}
            </Alert>
          )}
          <Group>
            <Button type="submit" loading={form.pending} data-autofocus>
              Save the call
            </Button>
          </Group>
        </Stack>
      </form>
    </Modal>
  );
}
