'use client';

import { Alert, Button, Group, Modal, Radio, Stack, TextInput } from '@mantine/core';
import { useState, useTransition } from 'react';
import { setThemAside, type SetAsideForm } from './actions';

interface Props {
  /** Who; null closes the dialog. */
  people: { id: number; name: string }[] | null;
  onClose: () => void;
  onDone: (ids: number[], says: string) => void;
}

/** Takes people off one's own Watch until a day, or until they come back, with a reason. */
export function SetAsideDialog({ people, onClose, onDone }: Props) {
  const [form, setForm] = useState<SetAsideForm>({ reason: '', until: 'back', date: '' });
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const who = people?.length === 1 ? people[0].name : `${people?.length ?? 0} learners`;
  const go = () =>
    startTransition(async () => {
      const ids = people!.map((one) => one.id);
      const result = await setThemAside(ids, form);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) {
        setForm({ ...form, reason: '' });
        onDone(ids, `${who} set aside`);
      }
    });
  return (
    <Modal
      opened={people !== null}
      onClose={onClose}
      title={`Set ${who} aside`}
      closeButtonProps={{ 'aria-label': 'Close' }}
    >
      <Stack gap="sm">
        <TextInput
          label="Reason"
          placeholder="Agreed two weeks off for the harvest"
          data-autofocus
          maxLength={300}
          value={form.reason}
          onChange={(event) => setForm({ ...form, reason: event.currentTarget.value })}
        />
        <Radio.Group
          label="Until"
          value={form.until}
          onChange={(until) => setForm({ ...form, until: until as SetAsideForm['until'] })}
        >
          <Stack gap={6} mt={4}>
            <Radio value="back" label="they come back" />
            <Radio value="date" label="a day" />
          </Stack>
        </Radio.Group>
        {form.until === 'date' && (
          <TextInput
            type="date"
            label="Day"
            value={form.date}
            onChange={(event) => setForm({ ...form, date: event.currentTarget.value })}
          />
        )}
        {trouble && (
          <Alert color="red" role="alert">
            {trouble}
          </Alert>
        )}
        <Group>
          <Button onClick={go} loading={pending}>
            Set aside
          </Button>
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
