import { Button } from '@mantine/core';
import { LEARNER_ACTIONS, type ActionName } from './learner-actions';

interface Props {
  /** How many the actions are about; those for one alone are left out for several. */
  count?: number;
  /** Beside a list, where there is little room: only what is often asked for. */
  inPanel?: boolean;
  busy: boolean;
  onAct: (name: ActionName) => void;
}

/** A button for each thing one does about learners. */
export function ActionButtons({ count, inPanel = false, busy, onAct }: Props) {
  const shown = LEARNER_ACTIONS.filter(
    (action) => (count === undefined || action.many) && (!inPanel || action.inPanel),
  );
  return shown.map(({ name, label }, index) => (
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
