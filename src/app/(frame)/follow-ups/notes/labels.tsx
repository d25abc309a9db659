'use client';

import { Button, Group, TextInput } from '@mantine/core';
import { useState } from 'react';
import { FormDialog } from '../../../_frame/form-dialog';
import { changeLabels } from '../actions';
import { usePending } from '../../../_frame/use-pending';
import classes from '../follow-ups.module.css';

interface Label {
  id: number;
  name: string;
}

/** The set of labels, kept by a lead. */
export function Labels({ labels }: { labels: Label[] }) {
  const [name, setName] = useState('');
  const [leaving, setLeaving] = useState<Label | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pending, start] = usePending();
  const change = (what: Parameters<typeof changeLabels>[0], after?: () => void) =>
    start(async () => {
      const result = await changeLabels(what);
      setTrouble(result.ok ? null : result.says);
      if (result.ok) after?.();
    });
  return (
    <section className={classes.labels} aria-label="Labels">
      <h2>Labels</h2>
      {labels.map((label) => (
        <Group key={`${label.id} ${label.name}`} gap={8}>
          <TextInput
            size="xs"
            aria-label={`Name of the label ${label.name}`}
            defaultValue={label.name}
            maxLength={40}
            onBlur={(event) => {
              if (event.currentTarget.value.trim() !== label.name)
                change({ id: label.id, name: event.currentTarget.value });
            }}
          />
          <Button variant="subtle" size="compact-xs" onClick={() => setLeaving(label)}>
            Remove…
          </Button>
        </Group>
      ))}
      <form
        onSubmit={(event) => {
          event.preventDefault();
          change({ add: name }, () => setName(''));
        }}
      >
        <Group gap={8} align="end">
          <TextInput
            size="xs"
            label="A new label"
            value={name}
            maxLength={40}
            error={trouble}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <Button type="submit" loading={pending}>
            Add
          </Button>
        </Group>
      </form>
      {leaving && (
        <FormDialog
          title={`Remove the label ${leaving.name}?`}
          says="It is taken off every note that carries it. The notes stay. This cannot be undone."
          fields={[]}
          values={{}}
          verb="Remove"
          keep={() => changeLabels({ remove: leaving.id })}
          onClose={() => setLeaving(null)}
        />
      )}
    </section>
  );
}
