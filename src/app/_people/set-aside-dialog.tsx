'use client';

import { sayCount } from '@/core/time/words';
import { FormDialog } from '../_frame/form-dialog';
import { choicesOf } from '../_frame/choices';
import { setAside, type SetAsideForm } from './actions';

interface Props {
  people: readonly { id: number; name: string }[];
  opened: boolean;
  onClose: () => void;
  onDone: (ids: number[], says: string) => void;
}

/** Takes people off one's own Watch until a day, or until they come back, with a reason. */
export function SetAsideDialog({ people, opened, onClose, onDone }: Props) {
  const who = people.length === 1 ? people[0].name : sayCount(people.length, 'learner');
  const ids = people.map(({ id }) => id);
  return (
    <FormDialog
      opened={opened}
      title={`Set ${who} aside`}
      fields={[
        { name: 'reason', label: 'Reason', placeholder: 'Agreed two weeks off for the harvest', most: 300 },
        {
          name: 'until',
          label: 'Until',
          type: 'radio',
          choices: choicesOf({ back: 'they come back', date: 'a day' }),
        },
        { name: 'date', label: 'Day', type: 'day', shown: ({ until }) => until === 'date' },
      ]}
      values={{ until: 'back' }}
      verb="Set aside"
      keep={(form: SetAsideForm) => setAside(ids, form)}
      onClose={onClose}
      onDone={() => onDone(ids, `${who} set aside`)}
    />
  );
}
