'use client';

import { Button, Checkbox } from '@mantine/core';
import { useVirtualizer } from '@tanstack/react-virtual';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { flushSync } from 'react-dom';
import { sayCount, sayDay } from '@/core/time/words';
import { unpackRows, type PackedRows } from '@/core/rows';
import type { Params } from '@/server/request/list';
import type { AttendanceLine } from '@/server/sessions/attendance-list';
import { MarkForm } from '@/ui/mark-form';
import { RowCheck } from '@/ui/row-check';
import { linkTo } from '../../../_list/list-link';
import { useEndless } from '../../../_list/use-endless';
import { ActionButtons } from '../../../_people/action-buttons';
import { PersonLink } from '../../../_people/person-link';
import { usePeople } from '../../../_people/use-people';
import classes from './attendance.module.css';

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
  next: string | null;
  total: number;
  sessions: GridSession[];
  marks: GridMark[];
  params: Params;
  here: string;
  today: number;
}

const ROW = 25;
const COLUMN = 82;
const HEAD = 48;
/** What stays in sight at the left, as the style sheet has it, and what a page of paper is wide, in px. */
const STICK = 372;
const PAPER = 1040;
/** Rows that are left when later ones are asked for. */
const NEAR = 20;

/** What a message to those who missed sessions begins with. */
const MISSED = {
  subject: 'Your sessions in {{course}}',
  body: 'Hello {{given_name}},\n\nyou have missed {{missed_sessions}}. The next one is {{next_session}}. Is anything in the way of it?\n\n{{my_name}}',
};

const rate = (value: number | null) => (value === null ? '–' : `${Math.round(100 * value)} %`);
/** Percentage points, with their sign; nothing where there is no trend. */
function points(value: number | null): string {
  if (value === null) return '';
  const whole = Math.round(100 * value);
  return whole === 0 ? '0' : `${whole > 0 ? '+' : '−'}${Math.abs(whole)}`;
}

/** Learners by sessions, drawn only where it is looked at; a head selects who missed its session. */
export function AttendanceGrid({ lines: packed, next, total, sessions, marks, params, here, today }: Props) {
  const router = useRouter();
  const lines = useMemo(() => unpackRows(packed), [packed]);
  const { all, goesOn, failed, load } = useEndless(lines, next, '/lists/attendance/rows', params);
  const list = usePeople({ people: all, today, here, single: true, begin: MISSED });
  const { selected, setSelected } = list;
  const frame = useRef<HTMLDivElement>(null);
  const [printing, setPrinting] = useState(false);
  const [cell, setCell] = useState({ row: 0, column: 0 });
  const rows = useVirtualizer({
    count: all.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const columns = useVirtualizer({
    horizontal: true,
    count: sessions.length,
    getScrollElement: () => frame.current,
    estimateSize: () => COLUMN,
    overscan: 4,
  });
  const byCode = useMemo(() => new Map(marks.map((mark) => [mark.code, mark])), [marks]);
  const shownRows = printing ? all.map((_, index) => ({ index, start: index * ROW })) : rows.getVirtualItems();
  const shownColumns = printing
    ? sessions.map((_, index) => ({ index, start: index * COLUMN }))
    : columns.getVirtualItems();
  const lastRow = shownRows.at(-1)?.index ?? 0;
  useEffect(() => {
    if (goesOn && !failed && lastRow > all.length - NEAR) void load();
  }, [goesOn, failed, lastRow, all.length, load]);
  useEffect(() => {
    // The latest sessions stand at the right: they are what one looks for first.
    columns.scrollToIndex(sessions.length - 1, { align: 'end' });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  useEffect(() => {
    const before = () => flushSync(() => setPrinting(true));
    const after = () => setPrinting(false);
    window.addEventListener('beforeprint', before);
    window.addEventListener('afterprint', after);
    return () => {
      window.removeEventListener('beforeprint', before);
      window.removeEventListener('afterprint', after);
    };
  }, []);
  const focusCell = (row: number, column: number) => {
    const to = {
      row: Math.min(all.length - 1, Math.max(0, row)),
      column: Math.min(sessions.length - 1, Math.max(0, column)),
    };
    setCell(to);
    rows.scrollToIndex(to.row);
    columns.scrollToIndex(to.column);
    // It may be drawn only now.
    requestAnimationFrame(() =>
      frame.current?.querySelector<HTMLElement>(`[data-cell="${to.row}/${to.column}"]`)?.focus(),
    );
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (!(event.target as HTMLElement).dataset.cell || event.ctrlKey || event.metaKey || event.altKey) return;
    const { row, column } = cell;
    const does: Record<string, () => void> = {
      ArrowDown: () => focusCell(row + 1, column),
      ArrowUp: () => focusCell(row - 1, column),
      ArrowRight: () => focusCell(row, column + 1),
      ArrowLeft: () => focusCell(row, column - 1),
      Home: () => focusCell(row, 0),
      End: () => focusCell(row, sessions.length - 1),
      Enter: () => router.push(`/sessions/${encodeURIComponent(sessions[column].sessionId)}`),
      ' ': () => list.toggle(all[row].id),
    };
    if (!does[event.key]) return;
    event.preventDefault();
    does[event.key]();
  };
  const selectMissing = ({ id }: GridSession) => {
    const missing = all.filter((line) => {
      const mark = byCode.get(line.marks[id] ?? '');
      return mark !== undefined && mark.counts && mark.credit === 0;
    });
    setSelected(new Set(missing.map((line) => line.id)));
  };
  const head = (title: string, sort: string, first = '') => {
    const asked = params.sort ?? 'name';
    const isSorted = asked.replace('-', '') === sort;
    const wanted = isSorted ? (asked.startsWith('-') ? sort : `-${sort}`) : `${first}${sort}`;
    return (
      <Link
        className={classes.sort}
        href={linkTo('/sessions/attendance', { ...params, sort: wanted === 'name' ? null : wanted })}
        scroll={false}
      >
        {title}
        {isSorted && <span aria-hidden="true">{asked.startsWith('-') ? ' ↓' : ' ↑'}</span>}
      </Link>
    );
  };
  const width = sessions.length * COLUMN;
  return (
    <>
      <div
        ref={frame}
        className={classes.frame}
        // On paper all of it stands beside each other, as small as that takes.
        style={printing ? { zoom: Math.min(1, PAPER / (STICK + width)) } : undefined}
        role="grid"
        aria-label="Attendance"
        aria-rowcount={total + 1}
        aria-colcount={sessions.length + 5}
        onKeyDown={onKeyDown}
      >
        <div
          className={classes.head}
          role="row"
          style={{ height: HEAD, '--columns': `${width}px` } as React.CSSProperties}
        >
          <div className={classes.stick}>
            <span className={classes.box} role="columnheader">
              <Checkbox
                size="xs"
                aria-label={selected.size > 0 ? 'Select nobody' : 'Select everybody shown'}
                checked={all.length > 0 && selected.size === all.length}
                indeterminate={selected.size > 0 && selected.size < all.length}
                onChange={() => setSelected(selected.size > 0 ? new Set() : new Set(all.map(({ id }) => id)))}
              />
            </span>
            <span className={classes.name} role="columnheader">
              {head('Learner', 'name')}
            </span>
            <span className={classes.figure} role="columnheader">
              {head('Rate', 'rate')}
            </span>
            <span className={`${classes.figure} ${classes.wide}`} role="columnheader">
              {head('In a row', 'missed', '-')}
            </span>
            <span className={`${classes.figure} ${classes.wide}`} role="columnheader">
              {head('Trend', 'trend')}
            </span>
          </div>
          {shownColumns.map(({ index, start }) => {
            const session = sessions[index];
            return (
              <div
                key={session.id}
                className={classes.session}
                role="columnheader"
                style={{ left: `calc(var(--stick) + ${start}px)`, width: COLUMN }}
              >
                <button
                  type="button"
                  onClick={() => selectMissing(session)}
                  title={`${session.title}, ${session.of}: select who missed it`}
                >
                  {sayDay(session.day, today)}
                  <span>{session.of}</span>
                </button>
                {!session.taken && <span className={classes.open}>no roll</span>}
              </div>
            );
          })}
        </div>
        <div className={classes.body} style={{ height: all.length * ROW, width: `calc(var(--stick) + ${width}px)` }}>
          {shownRows.map(({ index, start }) => {
            const line = all[index];
            return (
              <div
                key={line.id}
                className={classes.row}
                role="row"
                aria-rowindex={index + 2}
                data-selected={selected.has(line.id) || undefined}
                style={{ top: start, height: ROW }}
              >
                <div className={classes.stick}>
                  <span className={classes.box} role="gridcell">
                    <RowCheck
                      checked={selected.has(line.id)}
                      onChange={() => list.toggle(line.id)}
                      label={`Select ${line.name}`}
                    />
                  </span>
                  <span className={classes.name} role="rowheader">
                    <PersonLink learnerId={line.learnerId} name={line.name} />
                  </span>
                  <span className={classes.figure} role="gridcell" title={`${line.credit} of ${line.counted}`}>
                    {rate(line.rate)}
                  </span>
                  <span
                    className={`${classes.figure} ${classes.wide}`}
                    role="gridcell"
                    data-bad={line.missed >= 2 || undefined}
                  >
                    {line.missed > 0 ? `${line.missed} missed` : ''}
                  </span>
                  <span className={`${classes.figure} ${classes.wide}`} role="gridcell">
                    {points(line.trend)}
                  </span>
                </div>
                {shownColumns.map((column) => {
                  const session = sessions[column.index];
                  const mark = byCode.get(line.marks[session.id] ?? '');
                  const isCursor = cell.row === index && cell.column === column.index;
                  return (
                    <span
                      key={session.id}
                      role="gridcell"
                      data-cell={`${index}/${column.index}`}
                      tabIndex={isCursor ? 0 : -1}
                      className={classes.cell}
                      data-missed={(mark?.counts && mark.credit === 0) || undefined}
                      style={{ left: `calc(var(--stick) + ${column.start}px)`, width: COLUMN }}
                      title={mark ? `${line.name}, ${session.title}: ${mark.label}` : undefined}
                      aria-label={`${line.name}, ${session.title}: ${mark?.label ?? 'nothing'}`}
                      onFocus={() => setCell({ row: index, column: column.index })}
                    >
                      {mark && (
                        <>
                          <MarkForm credit={mark.credit} counts={mark.counts} size={12} />
                          {mark.label}
                        </>
                      )}
                    </span>
                  );
                })}
              </div>
            );
          })}
        </div>
      </div>
      {failed && (
        <Button variant="default" mt="xs" onClick={() => void load()}>
          The next learners did not come. Try again
        </Button>
      )}
      {selected.size > 0 && (
        <div className={classes.selection} role="region" aria-label="Selected learners">
          <strong>{sayCount(selected.size, 'learner')} selected</strong>
          <ActionButtons
            count={selected.size}
            busy={list.pending}
            onAct={(name) =>
              list.act(
                name,
                all.filter(({ id }) => selected.has(id)),
              )
            }
          />
          <Button variant="default" onClick={() => setSelected(new Set())}>
            Clear
          </Button>
        </div>
      )}
      {list.dialogs}
    </>
  );
}
