'use client';

import { useMemo } from 'react';
import { sayDay } from '@/core/time/words';
import { unpackRows, type PackedRows } from '@/core/rows';
import type { GridHead } from '@/server/request/grid';
import type { Params } from '@/server/request/list';
import type { AttendanceLine } from '@/server/sessions/attendance-list';
import { MarkForm } from '@/ui/mark-form';
import type { GridCell } from '../../../_grid/grid-row';
import { PeopleGrid } from '../../../_grid/people-grid';

interface GridSession {
  id: number;
  sessionId: string;
  title: string;
  of: string;
  day: number;
  taken: boolean;
}

interface GridMark {
  code: string;
  label: string;
  credit: number;
  counts: boolean;
}

interface Props {
  lines: PackedRows<AttendanceLine>;
  heads: GridHead[];
  next: string | null;
  total: number;
  sessions: GridSession[];
  marks: GridMark[];
  params: Params;
  here: string;
  today: number;
}

const COLUMN = 82;

/** What a message to those who missed sessions begins with. */
const MISSED = {
  subject: 'Your sessions in {{course}}',
  body: 'Hello {{given_name}},\n\nyou have missed {{missed_sessions}}. The next one is {{next_session}}. Is anything in the way of it?\n\n{{my_name}}',
};

/** Learners by sessions, the latest at the right: they are what one looks for first. */
export function AttendanceGrid({ lines: packed, sessions, marks, ...rest }: Props) {
  const rows = useMemo(() => unpackRows(packed), [packed]);
  const byCode = useMemo(() => new Map(marks.map((mark) => [mark.code, mark])), [marks]);
  const markOf = (row: AttendanceLine, column: number) => byCode.get(row.marks[sessions[column].id] ?? '');
  const hasMissed = (row: AttendanceLine, column: number) => {
    const mark = markOf(row, column);
    return mark !== undefined && mark.counts && mark.credit === 0;
  };
  const cell = (row: AttendanceLine, column: number): GridCell => {
    const mark = markOf(row, column);
    if (!mark) return { kind: 'none', says: 'nothing' };
    return {
      kind: hasMissed(row, column) ? 'missed' : 'mark',
      content: (
        <>
          <MarkForm credit={mark.credit} counts={mark.counts} size={12} />
          {mark.label}
        </>
      ),
      says: mark.label,
    };
  };
  return (
    <PeopleGrid
      label="Attendance"
      rows={rows}
      rowsPath="/lists/attendance/rows"
      path="/sessions/attendance"
      columns={sessions.map(({ id, title, of, day, taken }) => ({
        key: String(id),
        title: `${title}, ${of}`,
        unit: null,
        note: taken ? undefined : 'no roll was taken',
        head: (
          <>
            {sayDay(day, rest.today)}
            <small>{of}</small>
            {!taken && <small>no roll</small>}
          </>
        ),
      }))}
      columnWidth={COLUMN}
      cell={cell}
      hrefOf={(_row, column) => `/sessions/${encodeURIComponent(sessions[column].sessionId)}`}
      chosenBy={hasMissed}
      headVerb="select who missed it"
      begin={MISSED}
      fromEnd
      {...rest}
    />
  );
}
