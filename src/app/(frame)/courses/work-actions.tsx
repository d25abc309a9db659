'use client';

import { Button } from '@mantine/core';
import { useState } from 'react';
import { sayCount } from '@/core/time/words';
import type { CompletionInput, ItemsChange, ExtensionInput } from '@/server/work/completion-changes';
import type { FormOf } from '@/server/request/input';
import type { Pair } from '@/server/work/pairs';
import { FormDialog } from '../../_frame/form-dialog';
import { choicesOf } from '../../_frame/choices';
import type { Field } from '../../_frame/form-field';
import { offerUndo } from '../../_frame/offer-undo';
import { useAction } from '../../_frame/use-action';
import { extendItems, overrideItems, undoChange } from './actions';

/** What a deed is about: which cells, and in words. */
export interface Cells {
  pairs: Pair[];
  says: string;
}

const MARKS: readonly Field<FormOf<CompletionInput>>[] = [
  {
    name: 'state',
    label: 'Mark',
    type: 'radio',
    choices: choicesOf({ done: 'done', exempt: 'exempt: it counts for nothing', clear: 'clear: back to automatic' }),
  },
  { name: 'reason', label: 'Reason', placeholder: 'handed in on paper', most: 1000 },
];

const EXTENSIONS: readonly Field<FormOf<ExtensionInput>>[] = [
  {
    name: 'excused',
    label: 'What they get',
    type: 'radio',
    choices: choicesOf({
      no: 'a later date',
      yes: 'excused: they need not do it',
      none: 'neither: the item’s own date',
    }),
  },
  { name: 'due_at', label: 'Their own date', type: 'instant', atEnd: true, shown: ({ excused }) => excused === 'no' },
  { name: 'reason', label: 'Reason', placeholder: 'ill for two weeks', most: 1000 },
];

/** Says what a deed changed, with its undo. */
function usePending() {
  const { run } = useAction();
  return (verb: string) =>
    ({ batch, changed }: ItemsChange) =>
      offerUndo(changed === 0 ? 'That is so already' : `${sayCount(changed, 'item')} ${verb}`, () =>
        run(() => undoChange(batch), { done: 'Undone' }),
      );
}

/** Buttons that mark cells done or exempt, and that give them a later date. */
export function WorkActions({ cells, onDone }: { cells: Cells; onDone?: () => void }) {
  const [open, setOpen] = useState<'mark' | 'extend' | null>(null);
  return (
    <>
      <Button variant="default" size="compact-xs" onClick={() => setOpen('mark')}>
        Mark…
      </Button>
      <Button variant="default" size="compact-xs" onClick={() => setOpen('extend')}>
        Extend…
      </Button>
      <WorkDialogs open={open} cells={cells} onClose={() => setOpen(null)} onDone={onDone} />
    </>
  );
}

interface DialogProps {
  open: 'mark' | 'extend' | null;
  cells: Cells;
  onClose: () => void;
  onDone?: () => void;
}

/** The dialogs behind these buttons. */
export function WorkDialogs({ open, cells, onClose, onDone }: DialogProps) {
  const said = usePending();
  if (open === 'mark') {
    return (
      <FormDialog
        title="Mark by hand"
        says={`${cells.says}. A mark goes before the rule until it is cleared.`}
        fields={MARKS}
        values={{}}
        verb="Mark"
        keep={(form: FormOf<CompletionInput>) => overrideItems(cells.pairs, form)}
        onClose={onClose}
        onDone={(deed) => {
          said('marked')(deed);
          onDone?.();
        }}
      />
    );
  }
  if (open === 'extend') {
    return (
      <FormDialog
        title="Extend or excuse"
        says={cells.says}
        fields={EXTENSIONS}
        values={{ excused: 'no' }}
        verb="Give"
        keep={(form: FormOf<ExtensionInput>) => extendItems(cells.pairs, form)}
        onClose={onClose}
        onDone={(deed) => {
          said('given')(deed);
          onDone?.();
        }}
      />
    );
  }
  return null;
}
