'use client';

import { dateOfDay } from '@/core/time/zone';
import { sayCount } from '@/core/time/words';
import { FormDialog } from '../_deck/form-dialog';
import { promiseTo } from './actions';

interface Props {
  people: { id: number; name: string }[];
  /** Day number of today. */
  today: number;
  onClose: () => void;
  onDone: (ids: number[], says: string) => void;
}

/** Promises to look at people again on a day. */
export function FollowUpDialog({ people, today, onClose, onDone }: Props) {
  const who = people.length === 1 ? people[0].name : sayCount(people.length, 'learner');
  return (
    <FormDialog
      title={`Follow up ${who}`}
      fields={[
        { name: 'reason', label: 'What to look at' },
        { name: 'due', label: 'Look again on', type: 'date' },
      ]}
      values={{ reason: '', due: dateOfDay(today + 7) }}
      verb="Make the follow-up"
      keep={({ due, reason }) =>
        promiseTo(
          people.map(({ id }) => id),
          { due, reason },
        )
      }
      onClose={onClose}
      onDone={(ids) => onDone(ids, `Follow-up on ${who} made`)}
    />
  );
}
