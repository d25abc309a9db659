'use client';

import { Button } from '@mantine/core';
import { useMediaQuery } from '@mantine/hooks';
import { useState, type ReactNode } from 'react';
import { Sheet } from '@/ui/sheet';
import { ActionButtons } from './action-buttons';
import classes from './people-layout.module.css';
import type { Listed, usePeople } from './use-people';

interface Props<T extends Listed> {
  list: ReturnType<typeof usePeople<T>>;
  people: readonly T[];
  /** How many there are in all, on every page. */
  total: number;
  /** The person under the cursor, explained. */
  side: ReactNode;
  /** What the sheet is called that shows them on a narrow screen. */
  sheetTitle: string;
  /** Selects everybody who matches, where there may be more than are shown. */
  onSelectAll?: () => void;
  /** The list; `show` opens the person under the cursor, on a narrow screen. */
  children: (show: () => void) => ReactNode;
}

/** A list of people with the one under the cursor beside it (a sheet on a narrow screen) and what can be done with the selected. */
export function PeopleLayout<T extends Listed>(props: Props<T>) {
  const { list, people, total, side, sheetTitle, onSelectAll, children } = props;
  const { selected, setSelected, pending } = list;
  const [sheet, setSheet] = useState(false);
  const narrow = useMediaQuery('(max-width: 900px)');
  const named = (id: number): Listed => people.find((person) => person.id === id) ?? { id, learnerId: '', name: '' };
  return (
    <div className={classes.split}>
      <div>
        {children(() => narrow && setSheet(true))}
        {selected.size > 0 && (
          <div className={classes.selection} role="region" aria-label="Selected learners">
            <strong>{selected.size.toLocaleString('en-GB')} selected</strong>
            <ActionButtons
              count={selected.size}
              busy={pending}
              onAct={(name) => list.act(name, [...selected].map(named))}
            />
            {onSelectAll && selected.size < total && (
              <Button variant="default" loading={pending} onClick={onSelectAll}>
                Select all {total}
              </Button>
            )}
            <Button variant="default" onClick={() => setSelected(new Set())}>
              Clear
            </Button>
          </div>
        )}
      </div>
      <aside className={classes.side} aria-label="The learner under the cursor">
        {side}
      </aside>
      {list.dialogs}
      <Sheet
        isNear={Boolean(narrow)}
        opened={sheet && Boolean(narrow)}
        onClose={() => setSheet(false)}
        size="85%"
        title={sheetTitle}
      >
        {side}
      </Sheet>
    </div>
  );
}
