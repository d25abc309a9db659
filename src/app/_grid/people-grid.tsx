'use client';

import { Button, Checkbox } from '@mantine/core';
import { useCallbackRef } from '@mantine/hooks';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState, type CSSProperties, type FocusEvent, type MouseEvent, type ReactNode } from 'react';
import type { GridHead } from '@/server/request/grid';
import type { Params } from '@/server/request/list';
import { useLetters } from '../_frame/letters';
import { useIsPrinting } from '../_list/printing';
import { linkTo } from '../_list/list-link';
import { useEndless } from '../_list/use-endless';
import { ActionButtons } from '../_people/action-buttons';
import { usePeople } from '../_people/use-people';
import { GridRow, type GridCell, type GridLine } from './grid-row';
import { PaperGrid } from './paper-grid';
import { useGrid } from './use-grid';
import classes from './grid.module.css';

/** A column of the grid: an item, under its unit. */
export interface GridColumn {
  key: string;
  title: string;
  unit: string | null;
  /** Beside the title: "due Mon 9 Nov". */
  note?: string;
  /** What stands upright at its head instead of the title along it. */
  head?: ReactNode;
}

interface Props<Row extends GridLine> {
  label: string;
  rows: Row[];
  next: string | null;
  total: number;
  /** Where later rows are asked for. */
  rowsPath: string;
  /** The page's own address, and what it is asked for. */
  path: string;
  params: Params;
  here: string;
  today: number;
  columns: GridColumn[];
  columnWidth: number;
  heads: GridHead[];
  cell: (row: Row, column: number) => GridCell;
  hrefOf: (row: Row, column: number) => string;
  /** Who is selected by a column's head, and what the head says it does. */
  chosenBy: (row: Row, column: number) => boolean;
  headVerb: string;
  /** Begin at the last columns, which are the latest. */
  fromEnd?: boolean;
  /** What a message to people of this list begins with. */
  begin?: { subject: string; body: string };
  /** More to do with a cell or with the selected: shown beside what the cell says. */
  deeds?: (of: { row: Row; column: number; selected: Row[]; done: () => void }) => ReactNode;
  /** The letter that opens the deeds. */
  onLetter?: readonly [key: string, does: (of: { row: Row; column: number; selected: Row[] }) => void];
}

const NAME_WIDTH = { wide: 176, narrow: 140 } as const;
const BOX_WIDTH = 30;

/** Widths of what stays in sight at the left: in px, and as the template of its columns. */
function stickOf(heads: readonly GridHead[], name: number): { px: number; template: string } {
  const widths = heads.map(({ width }) => width);
  return {
    px: widths.reduce((sum, width) => sum + width, BOX_WIDTH + name),
    template: [`${BOX_WIDTH}px minmax(0, 1fr)`, ...widths.map((width) => `${width}px`)].join(' '),
  };
}

/** Runs of columns under one unit. */
function unitsOf(columns: readonly GridColumn[]): { unit: string; first: number; count: number }[] {
  const units: { unit: string; first: number; count: number }[] = [];
  columns.forEach(({ unit }, index) => {
    const last = units.at(-1);
    if (last && last.unit === (unit ?? '')) last.count += 1;
    else units.push({ unit: unit ?? '', first: index, count: 1 });
  });
  return units;
}

/** The cell in which something happened. */
function placeOf(event: MouseEvent | FocusEvent): { row: number; column: number } | null {
  const place = (event.target as HTMLElement).closest<HTMLElement>('[data-cell]')?.dataset.cell;
  if (!place) return null;
  const [row, column] = place.split('/').map(Number);
  return { row, column };
}

/** Learners by columns, drawn only where it is looked at; names and heads stay in sight. */
export function PeopleGrid<Row extends GridLine>(props: Props<Row>) {
  const { label, rows: first, next, total, rowsPath, path, params, here, today, columns, columnWidth, heads } = props;
  const { cell, hrefOf, chosenBy, headVerb, fromEnd, begin, deeds, onLetter } = props;
  const router = useRouter();
  const { all, goesOn, failed, load } = useEndless(first, next, rowsPath, params);
  const list = usePeople({ people: all, today, here, single: true, begin });
  const { selected, setSelected } = list;
  const [pointed, setPointed] = useState<{ row: number; column: number } | null>(null);
  const stick = stickOf(heads, NAME_WIDTH.wide);
  const narrow = stickOf(
    heads.filter(({ isWide }) => !isWide),
    NAME_WIDTH.narrow,
  );
  const grid = useGrid({
    rows: all.length,
    columns: columns.length,
    columnWidth,
    fromEnd,
    goesOn: goesOn && !failed,
    onNear: load,
    onOpen: (row, column) => router.push(hrefOf(all[row], column)),
    onSelect: (row) => list.toggle(all[row].id),
  });
  const units = useMemo(() => unitsOf(columns), [columns]);
  const titles = useMemo(() => columns.map(({ title }) => title), [columns]);
  const toggle = useCallbackRef(list.toggle);
  const isPrinting = useIsPrinting();
  const at = pointed ?? grid.cursor;
  const shown = all[at.row];
  const chosen = all.filter(({ id }) => selected.has(id));
  useLetters(
    onLetter && shown
      ? [[onLetter[0], () => onLetter[1]({ row: all[grid.cursor.row], column: grid.cursor.column, selected: chosen })]]
      : [],
  );
  const point = (event: MouseEvent) => {
    const place = placeOf(event);
    if (place && (pointed?.row !== place.row || pointed.column !== place.column)) setPointed(place);
  };
  const head = ({ title, sort, first: begins = undefined }: Pick<GridHead, 'title' | 'sort' | 'first'>) => {
    if (sort === undefined) return title;
    const asked = params.sort ?? 'name';
    const isSorted = asked.replace('-', '') === sort;
    const wanted = isSorted ? (asked.startsWith('-') ? sort : `-${sort}`) : `${begins ?? ''}${sort}`;
    return (
      <Link
        className={classes.sort}
        href={linkTo(path, { ...params, sort: wanted === 'name' ? null : wanted })}
        scroll={false}
      >
        {title}
        {isSorted && <span aria-hidden="true">{asked.startsWith('-') ? ' ↓' : ' ↑'}</span>}
      </Link>
    );
  };
  const style = {
    '--stick-wide': `${stick.px}px`,
    '--template-wide': stick.template,
    '--stick-narrow': `${narrow.px}px`,
    '--template-narrow': narrow.template,
    '--cell': `${grid.columnWidth}px`,
    '--columns': `${grid.width}px`,
    '--row': `${grid.rowHeight}px`,
  } as CSSProperties;
  if (isPrinting)
    return (
      <PaperGrid
        label={label}
        rows={all}
        total={total}
        columns={columns}
        columnWidth={columnWidth}
        units={units}
        heads={heads}
        cell={cell}
      />
    );
  return (
    <div className={classes.widths} style={style}>
      <div
        ref={grid.frame}
        className={classes.frame}
        role="grid"
        aria-label={label}
        aria-rowcount={total + 1}
        aria-colcount={columns.length + heads.length + 2}
        onKeyDown={grid.onKeyDown}
        onFocus={(event) => {
          const place = placeOf(event);
          if (place) grid.setCursor(place);
        }}
        onMouseOver={point}
        onMouseLeave={() => setPointed(null)}
      >
        <div className={classes.head} role="row" data-upright={columns.some(({ head: own }) => own) || undefined}>
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
              {head({ title: 'Learner', sort: 'name' })}
            </span>
            {heads.map((one) => (
              <span key={one.title} className={classes.figure} data-wide={one.isWide || undefined} role="columnheader">
                {head(one)}
              </span>
            ))}
          </div>
          {units.map(
            ({ unit, first: start, count }) =>
              unit !== '' &&
              grid.isColumnShown(start, count) && (
                <span
                  key={start}
                  className={classes.unit}
                  aria-hidden="true"
                  style={{
                    left: `calc(var(--stick) + ${start * grid.columnWidth}px)`,
                    width: count * grid.columnWidth,
                  }}
                >
                  <b>{unit}</b>
                </span>
              ),
          )}
          {grid.shownColumns.map(({ index, start }) => {
            const { key, title, unit, note, head: upright } = columns[index];
            return (
              <button
                key={key}
                type="button"
                className={classes.column}
                role="columnheader"
                style={{ left: `calc(var(--stick) + ${start}px)` }}
                title={[title, unit, note, headVerb].filter(Boolean).join(' · ')}
                onClick={() => setSelected(new Set(all.filter((row) => chosenBy(row, index)).map(({ id }) => id)))}
              >
                {upright ?? title}
              </button>
            );
          })}
        </div>
        <div className={classes.body} style={{ height: grid.height }}>
          {grid.shownRows.map(({ index, start }) => (
            <GridRow
              key={all[index].row ?? all[index].id}
              row={all[index]}
              index={index}
              start={start}
              shownColumns={grid.shownColumns}
              titles={titles}
              heads={heads}
              cell={cell}
              isSelected={selected.has(all[index].id)}
              cursor={grid.cursor.row === index ? grid.cursor.column : null}
              onToggle={toggle}
            />
          ))}
        </div>
      </div>
      {failed && (
        <Button variant="default" mt="xs" onClick={() => void load()}>
          The next learners did not come. Try again
        </Button>
      )}
      {shown && columns[at.column] && (
        <p className={classes.says}>
          <strong>
            <bdi>{shown.name}</bdi>
          </strong>
          {` · ${columns[at.column].title}: ${cell(shown, at.column).says}`}
          {columns[at.column].note && ` · ${columns[at.column].note}`}
          {deeds?.({
            row: all[grid.cursor.row],
            column: grid.cursor.column,
            selected: chosen,
            done: () => setSelected(new Set()),
          })}
        </p>
      )}
      {selected.size > 0 && (
        <div className={classes.selection} role="region" aria-label="Selected learners">
          <strong>{selected.size.toLocaleString('en-GB')} selected</strong>
          <ActionButtons count={selected.size} busy={list.pending} onAct={(name) => list.act(name, chosen)} />
          <Button variant="default" onClick={() => setSelected(new Set())}>
            Clear
          </Button>
        </div>
      )}
      {list.dialogs}
    </div>
  );
}
