/** An item's state in one letter: a grid sends thousands of them to a browser. */
import { ITEM_STATES, type ItemState } from './state';

export interface CellState {
  state: ItemState;
  isOverdue: boolean;
  isByHand: boolean;
}

/**
 * @returns one letter or digit: the state's index, times four, with 1 for overdue and 2 for by hand, in base 36
 *
 * @example packCell({ state: ITEM_STATES[0], isOverdue: true, isByHand: false }) // '1'
 */
export function packCell({ state, isOverdue, isByHand }: CellState): string {
  return (ITEM_STATES.indexOf(state) * 4 + (isOverdue ? 1 : 0) + (isByHand ? 2 : 0)).toString(36);
}

/** What `packCell` made a letter of. */
export function unpackCell(letter: string): CellState {
  const value = parseInt(letter, 36);
  return { state: ITEM_STATES[value >> 2], isOverdue: (value & 1) === 1, isByHand: (value & 2) === 2 };
}
