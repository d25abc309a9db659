'use client';

import { dateOfDay } from '@/core/time/zone';
import { sayCount } from '@/core/time/words';
import { FormDialog } from '../_frame/form-dialog';
import { addFollowUps, type FollowUpForm } from './actions';

interface Props {
  people: readonly { id: number; name: string }[];
  opened: boolean;
  /** Day number of today. */
  today: number;
  onClose: () => void;
  onDone: (ids: number[], says: string) => void;
}

/** Promises to look at people again on a day. */
export function FollowUpDialog({ people, opened, today, onClose, onDone }: Props) {
  const who = people.length === 1 ? people[0].name : sayCount(people.length, 'learner');
  return (
    <FormDialog
      opened={opened}
      title={`Follow up ${who}`}
      fields={[
        { name: 'reason', label: 'What to look at', most: 300 },
        { name: 'due', label: 'Follow up on', type: 'day' },
      ]}
      values={{ reason: '', due: dateOfDay(today + 7) }}
      verb="Make the follow-up"
      keep={(form: FollowUpForm) =>
        addFollowUps(
          people.map(({ id }) => id),
          form,
        )
      }
      onClose={onClose}
      onDone={(ids) => onDone(ids, `Follow-up on ${who} made`)}
    />
  );
}
