import type { ItemState } from '@/core/completion/state';
import { STATE_WORDS } from '@/core/completion/state';
import classes from './state-form.module.css';

/** Where somebody stands with an item, as a form and its word. */
export function StateForm({
  state,
  isOverdue = false,
  isByHand = false,
}: {
  state: ItemState;
  isOverdue?: boolean;
  isByHand?: boolean;
}) {
  return (
    <span
      className={classes.state}
      data-state={state}
      data-overdue={isOverdue || undefined}
      data-hand={isByHand || undefined}
    >
      {STATE_WORDS[state]}
    </span>
  );
}
