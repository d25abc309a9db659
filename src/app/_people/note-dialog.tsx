'use client';

import { useEffect, useState } from 'react';
import { FormDialog } from '../_frame/form-dialog';
import { choicesOf } from '../_frame/choices';
import { saveNote, labelNames, type NoteForm } from './actions';

interface Props {
  /** About whom. */
  person: { id: number; name: string };
  opened: boolean;
  onClose: () => void;
  onDone: (noteId: number, says: string) => void;
}

/** A note on a learner, for oneself or for staff. It never goes to the learner. */
export function NoteDialog({ person, opened, onClose, onDone }: Props) {
  const [labels, setLabels] = useState<string[]>([]);
  useEffect(() => {
    if (opened) void labelNames().then(setLabels);
  }, [opened]);
  return (
    <FormDialog
      opened={opened}
      title={`Note on ${person.name}`}
      fields={[
        { name: 'body', label: 'Note', type: 'lines', most: 10_000 },
        { name: 'labels', label: 'Labels', type: 'labels', names: labels },
        {
          name: 'audience',
          label: 'For',
          type: 'radio',
          choices: choicesOf({ staff: 'staff who see this learner', self: 'myself' }),
        },
      ]}
      values={{ audience: 'staff' }}
      verb="Save the note"
      keep={(form: NoteForm) => saveNote(person.id, form)}
      onClose={onClose}
      onDone={(id) => onDone(id, `Note on ${person.name} kept`)}
    />
  );
}
