/** What somebody did, in words. */
import type { ActionKind } from '../access/kinds';

export interface ActivityAsked {
  kind?: ActionKind;
  /** A source's own word. */
  action?: string;
  /** An item's title. */
  item?: string;
  unit?: string;
  /** A sort of item: discussion, quiz … */
  itemKind?: string;
  /** Are all the items asked about sessions? */
  isSession?: boolean;
}

const VERBS: Record<ActionKind, string> = {
  looked: 'looked at',
  worked: 'worked on',
  talked: 'talked in',
  other: 'did something else in',
};

/** "talked in any discussion of Week 3", "opened Footings", "has events on Footings". */
export function activityWords({ kind, action, item, unit, itemKind, isSession }: ActivityAsked): string {
  const verb = action ? `did “${action}” in` : kind ? VERBS[kind] : isSession ? 'attended' : 'did something in';
  const what = item ?? (itemKind ? `any ${itemKind}` : 'any item');
  return `${verb} ${what}${unit && !item ? ` of ${unit}` : ''}`;
}
