'use client';

import { Alert, Button, Chip, Group, Modal, Radio, Stack, Textarea } from '@mantine/core';
import { useEffect, useState, useTransition } from 'react';
import { keepTheNote, labelNames } from './actions';

interface Props {
  /** About whom; null closes the dialog. */
  person: { id: number; name: string } | null;
  onClose: () => void;
  onDone: (noteId: number, says: string) => void;
}

/** A note on a learner, for oneself or for staff. It never goes to the learner. */
export function NoteDialog({ person, onClose, onDone }: Props) {
  const [body, setBody] = useState('');
  const [audience, setAudience] = useState('staff');
  const [labels, setLabels] = useState<string[]>([]);
  const [known, setKnown] = useState<string[] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, startTransition] = useTransition();
  const opened = person !== null;
  useEffect(() => {
    if (opened) void labelNames().then(setKnown);
  }, [opened]);
  const keep = () => {
    if (!person) return;
    startTransition(async () => {
      const result = await keepTheNote(person.id, { body, audience, labels });
      setTrouble(result.ok ? null : result.says);
      if (!result.ok) return;
      setBody('');
      setLabels([]);
      onDone(result.value, `Note on ${person.name} kept`);
    });
  };
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title={`Note on ${person?.name ?? ''}`}
      closeButtonProps={{ 'aria-label': 'Close' }}
    >
      <Stack gap="sm">
        <Textarea
          label="Note"
          data-autofocus
          autosize
          minRows={4}
          maxRows={14}
          maxLength={10_000}
          value={body}
          onChange={(event) => setBody(event.currentTarget.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) keep();
          }}
        />
        {known && known.length > 0 && (
          <Chip.Group multiple value={labels} onChange={setLabels}>
            <Group gap={6} role="group" aria-label="Labels">
              {known.map((name) => (
                <Chip key={name} value={name} size="xs">
                  {name}
                </Chip>
              ))}
            </Group>
          </Chip.Group>
        )}
        <Radio.Group label="For" value={audience} onChange={setAudience}>
          <Group gap="md" mt={4}>
            <Radio value="staff" label="staff who see this learner" />
            <Radio value="self" label="myself" />
          </Group>
        </Radio.Group>
        {trouble && (
          <Alert color="red" role="alert">
            {trouble}
          </Alert>
        )}
        <Group>
          <Button onClick={keep} loading={pending}>
            Keep the note
          </Button>
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
