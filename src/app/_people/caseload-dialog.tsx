'use client';

import { useEffect, useState } from 'react';
import { sayCount } from '@/core/time/words';
import { putInCaseload } from '../(frame)/caseloads/actions';
import { choicesOf } from '../_frame/choices';
import { FormDialog } from '../_frame/form-dialog';

interface Props {
  people: readonly { id: number; name: string }[];
  opened: boolean;
  onClose: () => void;
  onDone: (says: string) => void;
}

interface Own {
  id: number;
  name: string;
}

interface Form {
  into: string;
  name: string;
  how: string;
}

/** Puts people in a caseload of one's own, or leaves them out of it. */
export function CaseloadDialog({ people, opened, onClose, onDone }: Props) {
  const [own, setOwn] = useState<Own[] | null>(null);
  useEffect(() => {
    if (!opened) return;
    void fetch('/lists/caseloads')
      .then((answer) => (answer.ok ? answer.json() : []))
      .catch(() => [])
      .then(setOwn);
  }, [opened]);
  const who = people.length === 1 ? people[0].name : sayCount(people.length, 'learner');
  // What it offers has to be there first.
  if (own === null) return null;
  return (
    <FormDialog
      opened={opened}
      title={`Caseload of ${who}`}
      says="A caseload goes over all courses. It is chosen in the bar, and is yours until you share it."
      fields={[
        {
          name: 'into',
          label: 'Caseload',
          type: 'choice',
          choices: [
            ...own.map(({ id, name }) => ({ value: String(id), label: name })),
            { value: 'new', label: 'a new one' },
          ],
        },
        { name: 'name', label: 'Its name', most: 80, shown: ({ into }) => into === 'new' },
        {
          name: 'how',
          label: 'Do what',
          type: 'radio',
          choices: choicesOf({ in: 'put them in', out: 'leave them out' }),
          shown: ({ into }) => into !== 'new',
        },
      ]}
      values={{ into: own.length > 0 ? String(own[0].id) : 'new', how: 'in' }}
      verb="Save"
      keep={(form: Form) =>
        putInCaseload(
          people.map(({ id }) => id),
          form,
        )
      }
      onClose={onClose}
      onDone={() => onDone(`The caseload of ${who} is saved`)}
    />
  );
}
