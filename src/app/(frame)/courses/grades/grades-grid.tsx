'use client';

import { useMemo } from 'react';
import { scoreBand, type ScoreEdges } from '@/core/grades/bands';
import { unpackRows, type PackedRows } from '@/core/rows';
import { sayCount } from '@/core/time/words';
import { DUE_WORDS } from '@/core/work/due';
import type { GradesLine } from '@/server/grades/grades-list';
import type { GridHead } from '@/server/request/grid';
import type { Params } from '@/server/request/list';
import { linkTo } from '../../../_list/list-link';
import type { GridCell } from '../../../_grid/grid-row';
import { PeopleGrid } from '../../../_grid/people-grid';

interface Props {
  lines: PackedRows<GradesLine>;
  heads: GridHead[];
  next: string | null;
  total: number;
  params: Params;
  here: string;
  course: string;
  today: number;
  edges: ScoreEdges;
  passMark: number;
  items: {
    id: number;
    itemId: string;
    title: string;
    unit: string | null;
    category: string | null;
    points: number | null;
  }[];
}

const COLUMN = 44;

/** Learners by items with the three means, and each one's last scores as a tiny line. */
export function GradesGrid({ lines: packed, items, course, edges, passMark, ...rest }: Props) {
  const rows = useMemo(() => unpackRows(packed), [packed]);
  const cell = (row: GradesLine, column: number): GridCell => {
    const [share, attempts, dueState, isExempt] = row.cells[items[column].id] ?? [null, 0, null, 0];
    if (isExempt === 1) return { kind: 'exempt', says: 'exempt' };
    if (share !== null) {
      const band = scoreBand(share, edges);
      const tries = attempts > 1 ? `, ${sayCount(attempts, 'attempt')}` : '';
      return {
        kind: band,
        content: String(Math.round(share)),
        bar: Math.min(100, share),
        says: `${share} %, ${band}${tries}`,
      };
    }
    if (dueState === 'handed_in' || dueState === 'handed_in_late')
      return { kind: 'waits', content: 'in', says: `${DUE_WORDS[dueState]}, not graded yet` };
    const isOverdue = dueState === 'overdue';
    if (attempts > 0)
      return {
        kind: 'begun',
        content: '…',
        isOverdue,
        says: dueState === null ? 'begun, not graded' : DUE_WORDS[dueState],
      };
    return {
      kind: 'none',
      content: isOverdue ? '' : '·',
      isOverdue,
      says: dueState === null ? 'nothing yet' : DUE_WORDS[dueState],
    };
  };
  return (
    <PeopleGrid
      label="Grades"
      rows={rows}
      rowsPath="/lists/grades/rows"
      path="/courses/grades"
      columns={items.map(({ itemId, title, unit, category, points }) => ({
        key: itemId,
        title,
        unit,
        note: [category, points === null ? null : `${points} points`].filter(Boolean).join(', ') || undefined,
      }))}
      columnWidth={COLUMN}
      cell={cell}
      hrefOf={(row, column) =>
        linkTo(`/learners/${encodeURIComponent(row.learnerId)}/courses/${encodeURIComponent(course)}`, {
          from: rest.here,
          item: items[column].itemId,
          form: 'full',
        })
      }
      chosenBy={(row, column) => {
        const share = row.cells[items[column].id]?.[0] ?? null;
        return share !== null && share < passMark;
      }}
      headVerb="select who is under the pass mark"
      {...rest}
    />
  );
}
