'use client';

import { useMemo, useState } from 'react';
import { unpackCell } from '@/core/completion/packed-cell';
import { STATE_WORDS } from '@/core/completion/state';
import { unpackRows, type PackedRows } from '@/core/rows';
import { sayCount } from '@/core/time/words';
import type { ProgressLine } from '@/server/completion/progress-list';
import type { GridHead } from '@/server/request/grid';
import type { Params } from '@/server/request/list';
import { linkTo } from '../../../_list/list-link';
import type { GridCell } from '../../../_grid/grid-row';
import { PeopleGrid } from '../../../_grid/people-grid';
import { WorkActions, WorkDialogs, type Cells } from '../work-actions';

interface GridItem {
  id: number;
  itemId: string;
  /** Its place among all of the course's items. */
  index: number;
  title: string;
  unit: string | null;
  isRequired: boolean;
  due: string | null;
}

interface Props {
  lines: PackedRows<ProgressLine>;
  heads: GridHead[];
  next: string | null;
  total: number;
  params: Params;
  here: string;
  course: string;
  today: number;
  items: GridItem[];
}

const COLUMN = 34;

/** What a message to those who have not done an item begins with. */
const NOT_DONE = {
  subject: '{{course}}: what is still open',
  body: 'Hello {{given_name}},\n\nthis is still open in {{course}}:\n\n{{overdue_list}}\n\nIs anything in the way of it?\n\n{{my_name}}',
};

/** Learners by items: what each has done, and what is left. */
export function ProgressGrid({ lines: packed, items, course, ...rest }: Props) {
  const rows = useMemo(() => unpackRows(packed), [packed]);
  const [overriding, setOverriding] = useState<Cells | null>(null);
  const cell = (row: ProgressLine, column: number): GridCell => {
    const { index } = items[column];
    const { state, isOverdue, isByHand } = unpackCell(row.cells[index]);
    const left = row.left[index];
    return {
      kind: state,
      isOverdue,
      isByHand,
      says: `${STATE_WORDS[state]}${isByHand ? ' by hand' : ''}${left ? `: ${left}` : ''}${isOverdue ? ', overdue' : ''}`,
    };
  };
  const cellsOf = (row: ProgressLine, column: number, selected: ProgressLine[]): Cells => {
    const { id, title } = items[column];
    const whom = selected.length > 0 ? selected : [row];
    return {
      pairs: whom.map((one) => [one.id, id] as const),
      says: `${title}, for ${whom.length === 1 ? whom[0].name : sayCount(whom.length, 'learner')}`,
    };
  };
  return (
    <>
      <PeopleGrid
        label="Progress"
        rows={rows}
        rowsPath="/lists/progress/rows"
        path="/courses/progress"
        columns={items.map(({ itemId, title, unit, isRequired, due }) => ({
          key: itemId,
          title,
          unit,
          note: [isRequired ? null : 'not required', due && `due ${due}`].filter(Boolean).join(', ') || undefined,
        }))}
        columnWidth={COLUMN}
        cell={cell}
        hrefOf={(row, column) =>
          linkTo(`/learners/${encodeURIComponent(row.learnerId)}/courses/${encodeURIComponent(course)}`, {
            from: rest.here,
            item: items[column].itemId,
          })
        }
        chosenBy={(row, column) => !['done', 'exempt'].includes(unpackCell(row.cells[items[column].index]).state)}
        headVerb="select who has not done it"
        begin={NOT_DONE}
        deeds={({ row, column, selected, done }) => (
          <WorkActions cells={cellsOf(row, column, selected)} onDone={done} />
        )}
        onLetter={['m', ({ row, column, selected }) => setOverriding(cellsOf(row, column, selected))]}
        {...rest}
      />
      {overriding && <WorkDialogs open="mark" cells={overriding} onClose={() => setOverriding(null)} />}
    </>
  );
}
