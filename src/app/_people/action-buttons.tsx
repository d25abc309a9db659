import { Button } from '@mantine/core';
import { LEARNER_ACTIONS, type ActionName } from './learner-actions';

interface Props {
  /** How many the actions are about; those for one alone are left out for several. */
  count?: number;
  busy: boolean;
  onAct: (name: ActionName) => void;
}

/** A button for each thing one does about learners. */
export function ActionButtons({ count, busy, onAct }: Props) {
  return LEARNER_ACTIONS.filter(({ many }) => count === undefined || many).map(({ name, label }, index) => (
    <Button
      key={name}
      variant={index === 0 ? 'filled' : 'default'}
      loading={busy && name === 'write'}
      onClick={() => onAct(name)}
    >
      {name === 'write' && count !== undefined ? `Write to ${count}` : label}
    </Button>
  ));
}
