'use client';

import { Checkbox, Group } from '@mantine/core';
import { RECEIVERS, RECEIVER_WORDS, type Receiver } from '@/core/contact/recipient';
import { sayCount } from '@/core/time/words';
import type { Possible } from './use-recipients';
import classes from './write.module.css';

interface Props {
  chosen: readonly Receiver[];
  possible: Possible;
  pending: boolean;
  onChange: (chosen: Receiver[]) => void;
}

/** Who receives it of each learner: they themselves, and those beside them who may. */
export function ReceiversField({ chosen, possible, pending, onChange }: Props) {
  const shown = RECEIVERS.filter(
    (receiver) => receiver === 'learner' || possible[receiver] || chosen.includes(receiver),
  );
  if (shown.length === 1)
    return (
      <p className={classes.soft}>
        It goes to the learner alone: nobody beside them may receive reports yet. Contacts stand on a learner’s page.
      </p>
    );
  const change = (receiver: Receiver, isChosen: boolean) => {
    const next = isChosen ? [...chosen, receiver] : chosen.filter((one) => one !== receiver);
    // Somebody receives it: the last one stays.
    if (next.length > 0) onChange(next);
  };
  return (
    <Checkbox.Group
      label="Who receives it"
      description="Each gets a mail of their own. Contacts are offered only where they agreed to receive reports."
      size="sm"
      value={[...chosen]}
    >
      <Group gap="md" mt={6}>
        {shown.map((receiver) => (
          <Checkbox
            key={receiver}
            value={receiver}
            disabled={pending}
            label={`${RECEIVER_WORDS[receiver]}${receiver === 'learner' || possible.learner === 1 ? '' : `, of ${sayCount(possible[receiver] ?? 0, 'learner')}`}`}
            onChange={(event) => change(receiver, event.currentTarget.checked)}
          />
        ))}
      </Group>
    </Checkbox.Group>
  );
}
